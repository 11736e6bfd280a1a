package org.ysteron.expr;

import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.internal.text.SqlNames;

/**
 * A column, or a field in one.
 *
 * @param input of which row it is
 * @param path its path (see {@link Schema})
 */
public record Column(Input input, String path) implements Expression {

  /** Whose row a column is of. */
  public enum Input {
    /** The row of the table. */
    TABLE,
    /** The row of the source of a merge. */
    SOURCE
  }

  /** A column of the table. */
  public Column(String path) {
    this(Input.TABLE, path);
  }

  /** The column of that path of a merge's source. */
  public static Column ofSource(String path) {
    return new Column(Input.SOURCE, path);
  }

  @Override
  public List<Expression> parts() {
    return List.of();
  }

  @Override
  public Expression withParts(List<Expression> parts) {
    return this;
  }

  @Override
  public String toString() {
    String names = String.join(".", Schema.parsePath(path).stream().map(SqlNames::of).toList());
    return input == Input.SOURCE ? "source." + names : names;
  }
}
