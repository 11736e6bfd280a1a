package org.ysteron.report;

import java.util.UUID;

/**
 * A table in a list of tables.
 *
 * @param id the table's id for life
 * @param name its name
 * @param version its newest version
 * @param dropped whether it was dropped and can be brought back
 * @param totals its rows, files and bytes
 */
public record TableInfo(
    UUID id, String name, long version, boolean dropped, TableVersion.Totals totals) {}
