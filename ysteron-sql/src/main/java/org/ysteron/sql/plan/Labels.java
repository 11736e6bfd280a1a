package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.apache.calcite.runtime.CalciteContextException;
import org.apache.calcite.sql.SqlBasicCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlOrderBy;
import org.apache.calcite.sql.SqlSelect;
import org.apache.calcite.sql.SqlWith;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.ysteron.internal.text.NearNames;
import org.ysteron.sql.text.SqlText;

/** What people read of a query: how its columns are called, and names that are nearly right. */
final class Labels {
  private static final int LONGEST = 60;
  private static final Pattern MISSING = Pattern.compile("Object '([^']*)' not found.*");

  private Labels() {}

  /** The names of the columns; those that have none are called as they are written. */
  static List<String> of(SqlNode query, SqlText text, List<String> names) {
    List<String> labels = new ArrayList<>(names);
    SqlNode node = query;
    while (!(node instanceof SqlSelect)) {
      if (node instanceof SqlOrderBy ordered) {
        node = ordered.query;
      } else if (node instanceof SqlWith with) {
        node = with.body;
      } else if (node instanceof SqlBasicCall call && call.isA(SqlKind.SET_QUERY)) {
        node = call.operand(0);
      } else {
        return labels;
      }
    }
    List<SqlNode> items = ((SqlSelect) node).getSelectList();
    if (items.size() != labels.size()) {
      return labels;
    }
    for (int i = 0; i < items.size(); i++) {
      SqlNode item = items.get(i);
      boolean isNamed = item instanceof SqlIdentifier || item.getKind() == SqlKind.AS;
      String written = isNamed ? "" : text.of(item.getParserPosition());
      if (!written.isEmpty() && written.length() <= LONGEST) {
        labels.set(i, written);
      }
    }
    return labels;
  }

  /** Where the planner found something wrong. */
  static SqlParserPos place(CalciteContextException e) {
    return new SqlParserPos(
        e.getPosLine(), e.getPosColumn(), e.getEndPosLine(), e.getEndPosColumn());
  }

  /** The name of a table that was not found, if that is what is wrong. */
  static Optional<String> missingTable(CalciteContextException e) {
    Matcher missing =
        MISSING.matcher(e.getCause() == null ? "" : String.valueOf(e.getCause().getMessage()));
    return missing.matches() ? Optional.of(missing.group(1)) : Optional.empty();
  }

  /** What to say of a missing table in a text with recursion; else nothing. */
  static String ofRecursion(SqlText text) {
    return text.mentions("RECURSIVE")
        ? " A recursion names itself in the part behind its UNION, and has one UNION."
        : "";
  }

  /** A column that may be meant by the name at the wrong place; empty when there is none. */
  static String nearColumn(SqlText text, CalciteContextException e, List<String> columns) {
    String name = text.of(place(e)).replaceFirst("^.*\\.", "").replace("\"", "");
    return !name.matches("\\w*[A-Za-z]\\w+") || columns.contains(name)
        ? ""
        : NearNames.didYouMean(name, columns);
  }
}
