package org.ysteron.report;

import java.time.Instant;
import java.util.Optional;
import java.util.OptionalLong;

/**
 * A name for a version of a table, or for the lake as of a ledger entry. Expiry keeps what it
 * names.
 *
 * @param name its name, unique in the lake
 * @param table the table's name now; empty when it names the lake
 * @param version the version of the table; empty when it names the lake
 * @param entry the entry of the version, or the named entry
 * @param made when it was created or moved
 */
public record Bookmark(
    String name, Optional<String> table, OptionalLong version, long entry, Instant made) {}
