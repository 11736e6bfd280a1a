package org.ysteron.data;

import java.util.ArrayList;
import java.util.List;

/**
 * The hidden column of data files to which rows were moved: a row's serial, its number for life in
 * its table. Where it is null, or the file has no such column, the serial is that of the file's
 * first row plus the row's position.
 */
public final class Serials {
  /** Above every id that a table gives out. */
  public static final int FIELD_ID = Integer.MAX_VALUE - 1;

  private static final String NAME = "_serial";

  private Serials() {}

  /** The column, under a name that no column of the schema has. */
  public static Field field(Schema schema) {
    String name = NAME;
    while (schema.struct().indexOf(name) >= 0) {
      name += "_";
    }
    return Field.of(name, Types.BIGINT).withId(FIELD_ID);
  }

  /** A schema with the column behind its own. */
  public static Schema with(Schema schema) {
    List<Field> columns = new ArrayList<>(schema.columns());
    columns.add(field(schema));
    return Schema.stored(columns, schema.keyIds(), schema.lastId());
  }
}
