package org.ysteron.internal.file;

import org.ysteron.internal.column.FieldIds;

/**
 * What it takes to open a data file and to check what is read from it.
 *
 * @param name its name in the store
 * @param size bytes
 * @param rows rows
 * @param footerLength bytes of the footer
 * @param footerHash SHA-256 from the footer on, in hexadecimal digits
 * @param ids how its field ids stand to the table's
 */
public record DataFile(
    String name, long size, long rows, long footerLength, String footerHash, FieldIds ids) {}
