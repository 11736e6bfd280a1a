package org.ysteron.internal.erase;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Consumer;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.Curve;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.PartitionRule;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Check;

/**
 * Values that the forms of a table's versions have, in checks, defaults and layouts, of the columns
 * by which rows are to be erased. What is written there stays where rows go, so that it must not be
 * a value of theirs. For one thread.
 */
final class FormLiterals {
  /** So much of the beginning of a text tells whose it is. */
  private static final int TELLING = 12;

  /** Shorter texts are in comments by chance. */
  private static final int LEAST_IN_COMMENT = 4;

  private final Filter filter;
  private final Schema columns;
  private final Set<Integer> ids = new TreeSet<>();
  private final Set<Form> looked = new HashSet<>();
  private final List<Literal> found = new ArrayList<>();

  private Form current;

  /**
   * Has looked nowhere yet.
   *
   * @param filter which rows are meant
   * @param columns the table's columns
   */
  FormLiterals(Filter filter, Schema columns) {
    this.filter = filter;
    this.columns = columns;
  }

  /** The fields of which values are written somewhere. */
  Set<Integer> ids() {
    return ids;
  }

  /**
   * A schema, with its checks, or a layout.
   *
   * @param number its version
   */
  record Form(boolean isLayout, long number) {}

  /**
   * A value.
   *
   * @param form in which form
   * @param where where it is written there, without it
   * @param test passed by the rows that have it
   * @param isOfCondition whether it is of a column by which rows are meant: then it must not stay
   *     even if other rows have it, too
   */
  record Literal(Form form, String where, RowTest test, boolean isOfCondition) {
    /** Whether a row has it. */
    boolean isIn(Batch rows) {
      return test.anyOf(rows);
    }
  }

  /** Which rows have a value. */
  interface RowTest {
    /** The rows, as bits. */
    long[] select(Batch rows);

    /** Whether a file may have such a row. */
    boolean mayHold(FileEntry file);

    default boolean anyOf(Batch rows) {
      for (long word : select(rows)) {
        if (word != 0) {
          return true;
        }
      }
      return false;
    }
  }

  private record Bound(Filter filter) implements RowTest {
    @Override
    public long[] select(Batch rows) {
      return filter.select(rows);
    }

    @Override
    public boolean mayHold(FileEntry file) {
      return filter.test(file) != Verdict.NONE;
    }
  }

  /** Rows whose value of a column of texts is a part of a comment. */
  private record InComment(int column, String comment) implements RowTest {
    @Override
    public long[] select(Batch rows) {
      long[] found = new long[(rows.size() + 63) >> 6];
      Vector values = null;
      for (int i = 0; i < rows.vectors().size(); i++) {
        values = rows.columns().fields().get(i).id() == column ? rows.vectors().get(i) : values;
      }
      for (int row = 0; values != null && row < rows.size(); row++) {
        if (values.get(row) instanceof String value
            && value.length() >= LEAST_IN_COMMENT
            && comment.contains(value)) {
          found[row >> 6] |= 1L << row;
        }
      }
      return found;
    }

    @Override
    public boolean mayHold(FileEntry file) {
      return true;
    }
  }

  /** Looks at a version, its older forms included, but for the forms that were looked at before. */
  void look(VersionPage version, PageStore pages) {
    form(version.form());
    version.formsBefore(pages).forEach(this::form);
    version.layouts(pages).forEach(this::layout);
  }

  /** The values that were met. */
  List<Literal> found() {
    return found;
  }

  /** Whether a form comes for the first time. */
  private boolean begin(Form form) {
    current = form;
    return looked.add(form);
  }

  private void form(TableForm form) {
    if (!begin(new Form(false, form.schemaVersion()))) {
      return;
    }
    for (Check check : form.checks()) {
      check.condition().match(new InCheck(check.name(), form.schema()));
    }
    form.schema().columns().forEach(this::written);
  }

  /** What is written of a column, and of those inside of it. */
  private void written(Field field) {
    defaults(field);
    if (!field.comment().isEmpty() && field.type() instanceof Type.Text) {
      comment(field);
    }
    Schema.children(field.type()).forEach(this::written);
  }

  private void comment(Field field) {
    if (columns.field(field.id()).filter(now -> now.type() instanceof Type.Text).isPresent()) {
      ids.add(field.id());
      found.add(
          new Literal(
              current,
              "the comment of column " + field.name(),
              new InComment(field.id(), field.comment()),
              true));
    }
  }

  private void defaults(Field field) {
    for (Optional<Object> value : List.of(field.writeDefault(), field.addedDefault())) {
      value.ifPresent(given -> inDefault(field, given));
    }
    field
        .computedDefault()
        .ifPresent(formula -> literals((Expression) formula, each -> inDefault(field, each)));
  }

  private void inDefault(Field field, Object value) {
    add(field.id(), value, "the default of column " + field.name());
  }

  private static void literals(Expression expression, Consumer<Object> each) {
    expression.each(
        part -> {
          if (part instanceof org.ysteron.expr.Literal literal && literal.value() != null) {
            each.accept(literal.value());
          }
          return part;
        });
  }

  private void layout(long number, Layout layout) {
    if (!begin(new Form(true, number))) {
      return;
    }
    for (PartitionRule rule : layout.rules()) {
      if (rule instanceof PartitionRule.At at) {
        at.bounds().forEach(bound -> add(at.fieldId(), bound, "a bound of layout " + number));
      } else if (rule instanceof PartitionRule.Groups groups) {
        groups
            .groups()
            .forEach(
                group ->
                    group.forEach(
                        value -> add(groups.fieldId(), value, "a list of layout " + number)));
      }
    }
    for (Curve.Axis axis : layout.curve().map(Curve::axes).orElse(List.of())) {
      // Numbers and times there lie between values, and are those of a row by chance only.
      for (Object value : axis.quantiles()) {
        if (value instanceof String text) {
          Test test =
              text.length() >= TELLING
                  ? path -> Condition.column(path).startsWith(text) // it may have been cut
                  : path -> new Condition.Compare(path, Condition.Comparison.EQUAL, value);
          add(axis.fieldId(), test, "the curve of layout " + number);
        }
      }
    }
  }

  private void add(int fieldId, Object value, String where) {
    add(fieldId, path -> new Condition.Compare(path, Condition.Comparison.EQUAL, value), where);
  }

  private interface Test {
    Condition on(String path);
  }

  private void add(int fieldId, Test test, String where) {
    if (columns.field(fieldId).isEmpty()) {
      return; // it was dropped
    }
    try {
      Filter bound = Filter.bind(test.on(columns.pathOf(fieldId)), columns);
      ids.add(fieldId);
      found.add(
          new Literal(current, where, new Bound(bound), filter.columns().containsKey(fieldId)));
    } catch (InvalidInputException e) {
      return; // it fits no value of the column as it is now
    }
  }

  /** The literals of a check. */
  private final class InCheck implements Condition.Cases<Void> {
    private final String where;
    private final Schema schema;

    InCheck(String name, Schema schema) {
      this.where = "check " + name;
      this.schema = schema;
    }

    private Void each(List<Condition> parts) {
      parts.forEach(part -> part.match(this));
      return null;
    }

    /** All literals of an expression, as values of each of its columns. */
    private Void computed(Condition test) {
      Set<String> paths = test.columns();
      literals(test, value -> paths.forEach(path -> add(schema.find(path).id(), value, where)));
      return null;
    }

    @Override
    public Void compare(Condition.Compare test) {
      return computed(test);
    }

    @Override
    public Void distinct(Condition.Distinct test) {
      return computed(test);
    }

    @Override
    public Void in(Condition.In test) {
      return computed(test);
    }

    @Override
    public Void isNull(Condition.IsNull test) {
      return computed(test);
    }

    @Override
    public Void holds(Condition.Holds test) {
      return computed(test);
    }

    @Override
    public Void like(Condition.Like test) {
      if (!test.prefix().isEmpty()) {
        test.columns()
            .forEach(
                column ->
                    add(
                        schema.find(column).id(),
                        path -> Condition.column(path).startsWith(test.prefix()),
                        where));
      }
      return computed(test);
    }

    @Override
    public Void and(Condition.And test) {
      return each(test.conditions());
    }

    @Override
    public Void or(Condition.Or test) {
      return each(test.conditions());
    }

    @Override
    public Void unknown(Condition.Unknown test) {
      return null; // whoever writes to such a lake knows it
    }

    @Override
    public Void not(Condition.Not test) {
      return test.part().match(this);
    }
  }
}
