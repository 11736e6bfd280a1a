package org.ysteron.internal.seen;

import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.table.VersionPage;

/**
 * A table as a transaction sees it that has not committed.
 *
 * @param page its version, whose new pages are the transaction's own
 * @param numbers what it gives out next here; at the commit all numbers are given anew
 */
public record Draft(VersionPage page, TableNumbers numbers) {}
