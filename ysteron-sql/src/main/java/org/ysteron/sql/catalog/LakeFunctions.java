package org.ysteron.sql.catalog;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.apache.calcite.sql.SqlAggFunction;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlFunctionCategory;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlOperator;
import org.apache.calcite.sql.SqlOperatorTable;
import org.apache.calcite.sql.SqlSyntax;
import org.apache.calcite.sql.fun.SqlBasicAggFunction;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.type.OperandTypes;
import org.apache.calcite.sql.type.ReturnTypes;
import org.apache.calcite.sql.type.SqlReturnTypeInference;
import org.apache.calcite.sql.type.SqlTypeTransforms;
import org.apache.calcite.sql.validate.SqlNameMatcher;
import org.apache.calcite.util.Optionality;
import org.jspecify.annotations.Nullable;

/**
 * The functions of queries: Calcite's, but for statistical aggregates, which are approximate
 * numbers here, whatever they are computed from. Immutable.
 */
public final class LakeFunctions implements SqlOperatorTable {
  private static final SqlReturnTypeInference APPROXIMATE =
      ReturnTypes.DOUBLE.andThen(SqlTypeTransforms.FORCE_NULLABLE);

  private static final Map<String, SqlAggFunction> OWN =
      Map.of(
          "VAR_POP", ofNumber(SqlKind.VAR_POP),
          "VAR_SAMP", ofNumber(SqlKind.VAR_SAMP),
          "STDDEV_POP", ofNumber(SqlKind.STDDEV_POP),
          "STDDEV_SAMP", ofNumber(SqlKind.STDDEV_SAMP));

  private static final SqlAggFunction PERCENTILE_CONT =
      percentile(SqlKind.PERCENTILE_CONT, APPROXIMATE);

  private static final SqlBasicAggFunction PERCENTILE_DISC =
      percentile(SqlKind.PERCENTILE_DISC, ReturnTypes.PERCENTILE_DISC_CONT);

  private static final SqlAggFunction OF_ANY_ORDER = PERCENTILE_DISC.withPercentile(false);

  /** A call whose order is not tested: PERCENTILE_DISC takes every type that has one. */
  static SqlCall ofAnyOrder(SqlCall call) {
    return call.getKind() == SqlKind.PERCENTILE_DISC ? called(OF_ANY_ORDER, call) : call;
  }

  /** A call of a function that the parser knows and that is another one here. */
  static SqlCall own(SqlCall call) {
    SqlAggFunction own =
        switch (call.getKind()) {
          case PERCENTILE_CONT -> PERCENTILE_CONT;
          case PERCENTILE_DISC -> PERCENTILE_DISC;
          default -> null;
        };
    return own == null ? call : called(own, call);
  }

  private static SqlCall called(SqlAggFunction function, SqlCall call) {
    return function.createCall(
        call.getFunctionQuantifier(), call.getParserPosition(), call.getOperandList());
  }

  private static SqlBasicAggFunction percentile(SqlKind kind, SqlReturnTypeInference type) {
    return SqlBasicAggFunction.create(kind, type, OperandTypes.UNIT_INTERVAL_NUMERIC_LITERAL)
        .withFunctionType(SqlFunctionCategory.SYSTEM)
        .withGroupOrder(Optionality.MANDATORY)
        .withPercentile(true)
        .withAllowsFraming(false);
  }

  private static SqlAggFunction ofNumber(SqlKind kind) {
    return SqlBasicAggFunction.create(kind, APPROXIMATE, OperandTypes.NUMERIC);
  }

  @Override
  public void lookupOperatorOverloads(
      SqlIdentifier name,
      @Nullable SqlFunctionCategory category,
      SqlSyntax syntax,
      List<SqlOperator> found,
      SqlNameMatcher names) {
    SqlAggFunction own =
        name.isSimple() ? OWN.get(name.getSimple().toUpperCase(Locale.ROOT)) : null;
    if (own != null && syntax == SqlSyntax.FUNCTION) {
      found.add(own);
    } else {
      SqlStdOperatorTable.instance().lookupOperatorOverloads(name, category, syntax, found, names);
    }
  }

  @Override
  public List<SqlOperator> getOperatorList() {
    return SqlStdOperatorTable.instance().getOperatorList();
  }
}
