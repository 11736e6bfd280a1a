package org.ysteron.internal.column;

import java.util.Map;
import org.ysteron.internal.rows.HiddenColumns;

/**
 * How the field ids in a data file stand to those of its table. Ids up to a highest one are the
 * table's own. Above it the file was written while others gave the same ids to other columns, so
 * that only those named here count.
 *
 * @param highest the highest id that is the table's own
 * @param others the table's id of each field that has another one in the file, by the file's id
 */
public record FieldIds(long highest, Map<Integer, Integer> others) {
  /** No column of a table has it. */
  private static final int NONE = -1;

  public FieldIds {
    others = Map.copyOf(others);
  }

  /** The table's id of a field; -1 when the table has none. */
  public int inTable(int inFile) {
    Integer other = others.get(inFile);
    if (other != null) {
      return other;
    }
    return inFile <= highest || inFile >= HiddenColumns.FIRST_ID ? inFile : NONE;
  }
}
