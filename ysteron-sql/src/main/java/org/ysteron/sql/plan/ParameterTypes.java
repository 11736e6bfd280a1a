package org.ysteron.sql.plan;

import java.util.List;
import org.apache.calcite.sql.SqlDynamicParam;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.fun.SqlStdOperatorTable;
import org.apache.calcite.sql.util.SqlShuttle;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Literal;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.text.TypedValue;

/** Gives parameters the types of their values; those that are null are texts. */
record ParameterTypes(List<@Nullable Object> values) {

  /** A query whose parameters have types. */
  SqlNode cast(SqlNode query) {
    return query.accept(
        new SqlShuttle() {
          @Override
          public @Nullable SqlNode visit(SqlDynamicParam parameter) {
            int number = parameter.getIndex();
            return number >= values.size()
                ? parameter
                : RelTypes.spec(type(values.get(number)))
                    .<SqlNode>map(
                        spec ->
                            SqlStdOperatorTable.CAST.createCall(
                                parameter.getParserPosition(), parameter, spec))
                    .orElse(parameter);
          }
        });
  }

  private static Type type(@Nullable Object value) {
    if (value == null) {
      return Types.text();
    }
    return value instanceof TypedValue
        ? Types.TIMESTAMP
        : new Literal(value).type().orElse(Types.text());
  }
}
