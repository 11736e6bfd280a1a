package org.ysteron;

import java.util.Optional;
import org.ysteron.commit.Committed;
import org.ysteron.statement.ChangeReport;

/**
 * What a row change did.
 *
 * @param report rows and files
 * @param committed its commit; empty inside a transaction, and when nothing was changed
 */
public record ChangeResult(ChangeReport report, Optional<Committed> committed) {}
