package org.ysteron.sql.catalog;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.apache.calcite.sql.SqlAggFunction;
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

  /** PERCENTILE_CONT. */
  static final SqlAggFunction PERCENTILE_CONT =
      SqlBasicAggFunction.create(
              SqlKind.PERCENTILE_CONT, APPROXIMATE, OperandTypes.UNIT_INTERVAL_NUMERIC_LITERAL)
          .withFunctionType(SqlFunctionCategory.SYSTEM)
          .withGroupOrder(Optionality.MANDATORY)
          .withPercentile(true)
          .withAllowsFraming(false);

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
