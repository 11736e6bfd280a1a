package org.ysteron.sql.text;

import java.util.Optional;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.ysteron.data.Schema;
import org.ysteron.option.Lift;

/** Reads {@code key [AS column [type]]}: a key of the leftovers that is to become a column. */
public final class SqlLift {
  private static final String BEFORE = "LIFT\n";

  private SqlLift() {}

  /**
   * Parses one.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Lift parse(String key) {
    SqlText text = new SqlText(key, 1);
    SqlCall lift = (SqlCall) text.statement(BEFORE + key);
    SqlIdentifier path = lift.operand(0);
    SqlIdentifier column = lift.operand(1);
    SqlDataTypeSpec type = lift.operand(2);
    return new Lift(
        Schema.path(path.names),
        column == null ? path.names.get(path.names.size() - 1) : column.getSimple(),
        Optional.ofNullable(type).map(spec -> SqlColumns.type(spec, text)));
  }
}
