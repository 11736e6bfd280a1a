package org.ysteron.sql.explain;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.expr.Column;
import org.ysteron.expr.Expression;
import org.ysteron.sql.join.JoinStep;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.ProjectStep;

/**
 * What the columns of a step are called for people.
 *
 * @param all a text for each column
 */
record Names(List<String> all) {
  private static final int LONGEST = 120;

  /** Names of columns as they are. */
  static Names of(Schema columns) {
    return new Names(columns.columns().stream().map(Field::name).toList());
  }

  /** A long text without its middle. */
  static String shortened(String text) {
    int half = LONGEST / 2;
    return text.length() <= LONGEST
        ? text
        : text.substring(0, half) + " … " + text.substring(text.length() - half);
  }

  /** These, and others behind them. */
  Names and(Names others) {
    List<String> both = new ArrayList<>(all);
    both.addAll(others.all);
    return new Names(both);
  }

  /** As many as a step has columns, these first. */
  Names and(Step step) {
    List<String> names = new ArrayList<>(all);
    List<Field> columns = step.columns().columns();
    String what = step instanceof JoinStep ? "has_partner" : null;
    while (names.size() < columns.size()) {
      names.add(what == null ? "value " + (names.size() + 1) : what);
    }
    return new Names(names.subList(0, columns.size()));
  }

  /** What expressions on the columns are called. */
  Names of(List<? extends Expression> expressions, Schema columns) {
    return new Names(expressions.stream().map(one -> text(one, columns)).toList());
  }

  /** Expressions one after the other. */
  String list(List<? extends Expression> expressions, Schema columns) {
    return String.join(", ", of(expressions, columns).all);
  }

  /** What a step computes that is no column. */
  String computed(ProjectStep project) {
    List<String> computed = new ArrayList<>();
    for (int i = 0; i < all.size(); i++) {
      if (!(project.expressions().get(i) instanceof Column)) {
        computed.add(all.get(i));
      }
    }
    return shortened(String.join(", ", computed));
  }

  /** A name as a part of an expression: in parentheses when it is an operation itself. */
  private static String inside(String name, Expression expression) {
    boolean isPart = !(expression instanceof Column) && name.contains(" ");
    return isPart && !name.matches("\\w+\\([^()]*\\)") ? "(" + name + ")" : name;
  }

  /** An expression with these names in the places of the columns of a schema. */
  String text(Expression expression, Schema columns) {
    Map<String, String> places = new TreeMap<>();
    Expression marked =
        expression.renamed(
            path -> {
              List<String> names = new ArrayList<>(Schema.parsePath(path));
              int at = columns.indexOf(names.get(0));
              String mark = "⟨" + at + "⟩";
              if (at < 0 || at >= all.size()) {
                return path;
              }
              places.put('"' + mark + '"', inside(all.get(at), expression));
              names.set(0, mark);
              return Schema.path(names);
            });
    String text = marked.toString();
    for (Map.Entry<String, String> place : places.entrySet()) {
      text = text.replace(place.getKey(), place.getValue());
    }
    return shortened(text);
  }
}
