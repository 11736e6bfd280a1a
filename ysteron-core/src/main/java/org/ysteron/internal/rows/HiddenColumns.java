package org.ysteron.internal.rows;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;

/**
 * The columns of data files that no table has: of each row its serial, its number for life in its
 * table, and its birth, the ordinal of the commit that gave it its values. A file has them only if
 * rows were moved or updated into it. A null serial is that of the file's first row plus the row's
 * position; a null birth is that of the file's entry.
 */
public final class HiddenColumns {
  /** From here on ids are no columns'; these two are above all that a table gives out. */
  public static final int FIRST_ID = 1_900_000_000;

  /** The id of the column of serials. */
  public static final int SERIAL_ID = FIRST_ID + 1;

  /** The id of the column of births. */
  public static final int BIRTH_ID = FIRST_ID + 2;

  private HiddenColumns() {}

  /** The column of serials, under a name that no column of the schema has. */
  public static Field serial(Schema schema) {
    return named("_serial", SERIAL_ID, schema);
  }

  /** The column of births, under a name that no column of the schema has. */
  public static Field birth(Schema schema) {
    return named("_birth", BIRTH_ID, schema);
  }

  private static Field named(String start, int id, Schema schema) {
    String name = start;
    while (schema.struct().indexOf(name) >= 0) {
      name += "_";
    }
    return Field.of(name, Types.BIGINT).withId(id);
  }

  /** A schema with the column of serials behind its own. */
  public static Schema withSerials(Schema schema) {
    return with(schema, List.of(serial(schema)));
  }

  /** A schema with the columns of serials and births behind its own. */
  public static Schema with(Schema schema) {
    return with(schema, List.of(serial(schema), birth(schema)));
  }

  /** The columns of serials and births alone. */
  public static Schema only(Schema schema) {
    return Schema.stored(List.of(serial(schema), birth(schema)), List.of(), schema.lastId());
  }

  /** How many columns of a schema are before the hidden ones. */
  public static int count(Schema schema) {
    int count = schema.columns().size();
    while (count > 0 && schema.columns().get(count - 1).id() >= FIRST_ID) {
      count--;
    }
    return count;
  }

  private static Schema with(Schema schema, List<Field> hidden) {
    List<Field> columns = new ArrayList<>(schema.columns());
    columns.addAll(hidden);
    return Schema.stored(columns, schema.keyIds(), schema.lastId());
  }
}
