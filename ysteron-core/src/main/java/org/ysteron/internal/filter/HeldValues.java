package org.ysteron.internal.filter;

import org.ysteron.data.Field;

/** Whether some rows may hold a value of a column; true in doubt. */
public interface HeldValues {

  /** A value of a column that compares as whole numbers, none of them scaled or turned over. */
  boolean mayHold(Field field, long value);

  /** A value of a text, json, binary or uuid column. */
  boolean mayHold(Field field, byte[] value);
}
