package org.ysteron.sql.grammar;

import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlSpecialOperator;

/** The statements of a lake that Calcite has no node for. */
public final class LakeOperators {
  /** {@code EXPLAIN query}; the operand is the query. */
  public static final SqlSpecialOperator EXPLAIN = new SqlSpecialOperator("EXPLAIN", SqlKind.OTHER);

  /** {@code EXPLAIN ANALYZE query}; the operand is the query. */
  public static final SqlSpecialOperator EXPLAIN_ANALYZE =
      new SqlSpecialOperator("EXPLAIN ANALYZE", SqlKind.OTHER);

  /** {@code SET SYSTEM_TIME TO point}, with the point, or {@code SET SYSTEM_TIME DEFAULT}. */
  public static final SqlSpecialOperator SET_SYSTEM_TIME =
      new SqlSpecialOperator("SET SYSTEM_TIME", SqlKind.OTHER);

  private LakeOperators() {}
}
