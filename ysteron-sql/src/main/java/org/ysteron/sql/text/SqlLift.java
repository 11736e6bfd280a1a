package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.option.Lift;

/** Reads {@code key [AS column [type]]}: a key of the leftovers that is to become a column. */
public final class SqlLift {
  private SqlLift() {}

  /**
   * Parses one.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Lift parse(String text) {
    SqlTokens tokens = new SqlTokens(text);
    List<String> names = new ArrayList<>();
    do {
      names.add(tokens.name());
    } while (tokens.take("."));
    String column = names.get(names.size() - 1);
    Optional<Type> type = Optional.empty();
    if (tokens.take("AS")) {
      column = tokens.name();
      if (!tokens.isAtEnd()) {
        type = Optional.of(SqlColumns.parse("x " + tokens.upTo()).columns().get(0).type());
      }
    }
    if (!tokens.isAtEnd()) {
      throw tokens.wrong("After the key, only AS, a column and its type may follow.");
    }
    return new Lift(Schema.path(names), column, type);
  }
}
