package org.ysteron.internal.rows;

import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Values;

/** Rows in messages. */
public final class RowText {
  private RowText() {}

  /** The key of a row, or all of it where there is no key, for messages. */
  public static String of(Schema schema, Row row) {
    StringBuilder text = new StringBuilder();
    for (Field field : row.fields()) {
      boolean shown = schema.key().isEmpty() || schema.key().contains(field.name());
      if (shown) {
        text.append(text.isEmpty() ? "" : ", ");
        text.append(field.name()).append(" = ");
        text.append(Values.literal(row.get(field.name())));
      }
    }
    return text.toString();
  }
}
