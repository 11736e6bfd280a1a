package org.ysteron.sql.text;

import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOperator;
import org.apache.calcite.sql.util.SqlShuttle;
import org.jspecify.annotations.Nullable;

/** What is done with parsed nodes. */
public final class SqlNodes {
  private SqlNodes() {}

  /** Whether a node is of a kind. */
  public static boolean is(@Nullable SqlNode node, SqlOperator kind) {
    return node instanceof SqlCall call && call.getOperator().equals(kind);
  }

  /** An operand of a node of some kind; null when it is of another, or has it not. */
  static @Nullable SqlNode operand(@Nullable SqlNode node, SqlOperator kind, int number) {
    return node instanceof SqlCall call && call.getOperator().equals(kind)
        ? call.getOperandList().get(number)
        : null;
  }

  /** The text that a literal in quotes is. */
  public static String string(SqlNode literal) {
    return ((SqlLiteral) literal).getValueAs(String.class);
  }

  /** A copy: planning changes what it plans. */
  @SuppressWarnings("unchecked") // a copy is of the same kind
  public static <T extends SqlNode> T copy(T node) {
    return (T)
        node.accept(
            new SqlShuttle() {
              @Override
              public SqlNode visit(SqlCall call) {
                CallCopyingArgHandler copy = new CallCopyingArgHandler(call, true);
                call.getOperator().acceptCall(this, call, false, copy);
                return copy.result();
              }

              @Override
              public SqlNode visit(SqlNodeList list) {
                SqlNodeList copied = new SqlNodeList(list.getParserPosition());
                list.forEach(one -> copied.add(one == null ? null : one.accept(this)));
                return copied;
              }

              @Override
              public SqlNode visit(SqlIdentifier name) {
                return name.clone(name.getParserPosition());
              }
            });
  }
}
