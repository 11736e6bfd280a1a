package org.ysteron.sql.inside;

import java.util.function.Function;
import java.util.stream.Stream;
import org.ysteron.data.Schema;
import org.ysteron.sql.text.SqlColumns;

/**
 * A table whose rows are made of what a lake knows of itself. Immutable.
 *
 * @param name for people
 * @param columns its columns
 * @param size about how many rows it has
 * @param rows the rows; those may be left out that what is wanted leaves out
 */
public record InsideTable(
    String name, Schema columns, double size, Function<Wanted, Stream<Object[]>> rows) {

  /** A table whose columns are given as SQL defines them. */
  public static InsideTable of(
      String name, String columns, double size, Function<Wanted, Stream<Object[]>> rows) {
    return new InsideTable(name, SqlColumns.parse(columns), size, rows);
  }

  /** The values of a row, in the order of the columns. */
  public static Object[] row(Object... values) {
    return values;
  }
}
