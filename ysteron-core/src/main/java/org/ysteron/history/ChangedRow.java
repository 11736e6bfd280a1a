package org.ysteron.history;

import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;

/**
 * A row that differs between two versions.
 *
 * @param kind what happened to it
 * @param serial its serial, which it has in both versions
 * @param before its values in the earlier version; null for an inserted row
 * @param after its values in the later version; null for a deleted row
 */
public record ChangedRow(ChangeKind kind, long serial, @Nullable Row before, @Nullable Row after) {}
