package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlLiteral;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOperator;
import org.ysteron.data.Schema;
import org.ysteron.option.LayoutPlan;
import org.ysteron.sql.grammar.LakeOperators;

/** Reads what LAYOUT and OPTIONS of a table say. */
public final class SqlLayout {
  private SqlLayout() {}

  /** The layout of parsed rules; none when there are no rules. */
  public static LayoutPlan of(SqlCall layout, SqlText text) {
    LayoutPlan plan = LayoutPlan.none();
    List<String> sort = new ArrayList<>();
    for (SqlNode node : (SqlNodeList) layout.operand(0)) {
      SqlCall rule = (SqlCall) node;
      SqlOperator kind = rule.getOperator();
      if (kind.equals(LakeOperators.SORT)) {
        boolean descending = ((SqlLiteral) rule.operand(1)).booleanValue();
        sort.add(path(rule.operand(0)) + (descending ? " descending" : ""));
      } else if (kind.equals(LakeOperators.ALONG)) {
        List<String> columns = new ArrayList<>();
        ((SqlNodeList) rule.operand(0)).forEach(column -> columns.add(path(column)));
        plan = plan.along(columns.toArray(String[]::new));
      } else {
        plan = plan.rule(partition(rule, text));
      }
    }
    return sort.isEmpty() ? plan : sorted(plan, sort);
  }

  private static LayoutPlan sorted(LayoutPlan plan, List<String> sort) {
    return plan.sortedBy(sort.toArray(String[]::new));
  }

  private static String path(SqlNode column) {
    return Schema.path(((SqlIdentifier) column).names);
  }

  private static String partition(SqlCall rule, SqlText text) {
    String column = path(rule.operand(0));
    SqlNode how = rule.operand(1);
    if (rule.getOperator().equals(LakeOperators.RANGE_EVERY)) {
      String unit = rule.operand(2) == null ? "" : " " + SqlNodes.string(rule.operand(2));
      return "range %s every %s%s".formatted(column, how, unit);
    }
    if (rule.getOperator().equals(LakeOperators.RANGE_AT)) {
      return "range %s at %s".formatted(column, values((SqlNodeList) how, text));
    }
    if (rule.getOperator().equals(LakeOperators.HASH)) {
      return "hash %s into %s".formatted(column, how);
    }
    List<String> groups = new ArrayList<>();
    ((SqlNodeList) how).forEach(group -> groups.add("(" + values((SqlNodeList) group, text) + ")"));
    return "list " + column + (groups.isEmpty() ? "" : " of " + String.join(", ", groups));
  }

  private static String values(SqlNodeList values, SqlText text) {
    List<String> all = new ArrayList<>();
    values.forEach(value -> all.add(text.raw(value.getParserPosition())));
    return String.join(", ", all);
  }

  /** Options by name; those that are dropped are empty. */
  public static Map<String, Optional<Object>> options(SqlNodeList options, SqlText text) {
    Map<String, Optional<Object>> all = new LinkedHashMap<>();
    for (SqlNode node : options) {
      SqlCall option = (SqlCall) node;
      String name = String.join(".", ((SqlIdentifier) option.operand(0)).names);
      SqlLiteral value = option.operand(1);
      Optional<Object> given = Optional.ofNullable(value).map(SqlLayout::value);
      if (all.put(name, given) != null) {
        throw text.wrong("Option " + name + " is given twice.", option.getParserPosition(), null);
      }
    }
    return all;
  }

  private static Object value(SqlLiteral literal) {
    String text = literal.toValue();
    return text == null ? literal.toString() : text;
  }
}
