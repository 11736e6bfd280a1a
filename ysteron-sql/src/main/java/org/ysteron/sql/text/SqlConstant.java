package org.ysteron.sql.text;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.typing.Typing;

/** Computes constant expressions. */
public final class SqlConstant {
  private SqlConstant() {}

  /**
   * The value of an expression without columns.
   *
   * @param now what CURRENT_TIMESTAMP is
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static @Nullable Object of(SqlNode node, SqlText text, Instant now) {
    ExpressionReader reader = new ExpressionReader(text, Schema.NO_COLUMNS, Optional.empty());
    Expression expression = reader.checkedValue(node);
    Typing typing = new Typing(Schema.NO_COLUMNS, Optional.empty(), Optional.of(now));
    try {
      Computation computation = new Computation(typing.type(expression));
      return computation.values(new Batch(Schema.NO_COLUMNS.struct(), 1, List.of())).get(0);
    } catch (ComputeException e) {
      throw text.wrong(String.valueOf(e.getMessage()), node.getParserPosition(), e);
    }
  }
}
