package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Schema;
import org.ysteron.expr.Expression;

/** The same columns under the names that they have in another schema. */
public final class Renaming {
  private Renaming() {}

  /**
   * An expression on columns that stand in another schema from a place on.
   *
   * @param offset the place there of the first column
   */
  public static Expression of(Expression expression, Schema from, Schema to, int offset) {
    return expression.renamed(
        path -> {
          List<String> names = new ArrayList<>(Schema.parsePath(path));
          int at = from.indexOf(names.get(0));
          names.set(0, to.columns().get(offset + at).name());
          return Schema.path(names);
        });
  }
}
