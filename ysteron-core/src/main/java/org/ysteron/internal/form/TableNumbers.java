package org.ysteron.internal.form;

import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * What a table gives out next. It stands in the lake's own record of the table, where every line of
 * the table sees it, so that no number is given twice; and it is given when a commit is made, not
 * reserved before.
 *
 * @param file the number of the next file
 * @param serial the serial of the next row
 * @param column the id of the next field
 * @param schema the version of the next schema
 * @param layout the version of the next layout
 */
public record TableNumbers(long file, long serial, long column, long schema, long layout) {

  /** Those of a new table of some form. */
  public static TableNumbers of(TableForm form) {
    return new TableNumbers(
        0, 0, form.schema().lastId() + 1L, form.schemaVersion() + 1, form.layoutVersion() + 1);
  }

  /** These after files and rows got theirs. */
  public TableNumbers withRows(long nextFile, long nextSerial) {
    return new TableNumbers(nextFile, nextSerial, column, schema, layout);
  }

  /** These after a form got its own. */
  public TableNumbers with(TableForm form) {
    return new TableNumbers(
        file,
        serial,
        Math.max(column, form.schema().lastId() + 1L),
        Math.max(schema, form.schemaVersion() + 1),
        Math.max(layout, form.layoutVersion() + 1));
  }

  public void write(ByteOut out) {
    out.varint(file).varint(serial).varint(column).varint(schema).varint(layout);
  }

  public static TableNumbers read(ByteIn in) {
    return new TableNumbers(in.varint(), in.varint(), in.varint(), in.varint(), in.varint());
  }
}
