package org.ysteron.internal.erase;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.Curve;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.PartitionRule;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Check;

/**
 * Values that the forms of a table's versions have, in checks, defaults and layouts, of the columns
 * by which rows are to be erased. What is written there stays where rows go, so that it must not be
 * a value of theirs. For one thread.
 */
final class FormLiterals {
  private final Filter filter;
  private final Schema tested;
  private final Set<Form> looked = new HashSet<>();
  private final List<Literal> found = new ArrayList<>();

  private Form current;

  /**
   * Has looked nowhere yet.
   *
   * @param filter which rows are meant
   * @param tested the columns that it tests, as they are now
   */
  FormLiterals(Filter filter, Schema tested) {
    this.filter = filter;
    this.tested = tested;
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
   */
  record Literal(Form form, String where, Filter test) {
    /** Whether a row has it. */
    boolean isIn(Batch rows) {
      for (long word : test.select(rows)) {
        if (word != 0) {
          return true;
        }
      }
      return false;
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
    for (int id : filter.columns().keySet()) {
      form.schema().field(id).ifPresent(this::defaults);
    }
  }

  private void defaults(Field field) {
    for (Optional<Object> value : List.of(field.writeDefault(), field.addedDefault())) {
      value.ifPresent(given -> add(field.id(), given, "the default of column " + field.name()));
    }
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
      axis.quantiles()
          .forEach(value -> add(axis.fieldId(), value, "the curve of layout " + number));
    }
  }

  private void add(int fieldId, Object value, String where) {
    add(fieldId, path -> new Condition.Compare(path, Condition.Comparison.EQUAL, value), where);
  }

  private interface Test {
    Condition on(String path);
  }

  private void add(int fieldId, Test test, String where) {
    if (!filter.columns().containsKey(fieldId)) {
      return;
    }
    try {
      found.add(new Literal(current, where, Filter.bind(test.on(tested.pathOf(fieldId)), tested)));
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

    private void literal(String path, Object value) {
      if (value != null) {
        add(schema.find(path).id(), value, where);
      }
    }

    @Override
    public Void compare(Condition.Compare test) {
      literal(test.column(), test.literal());
      return null;
    }

    @Override
    public Void comparePair(Condition.ComparePair test) {
      return null;
    }

    @Override
    public Void in(Condition.In test) {
      test.literals().forEach(value -> literal(test.column(), value));
      return null;
    }

    @Override
    public Void isNull(Condition.IsNull test) {
      return null;
    }

    @Override
    public Void startsWith(Condition.StartsWith test) {
      add(
          schema.find(test.column()).id(),
          path -> new Condition.StartsWith(path, test.prefix()),
          where);
      return null;
    }

    @Override
    public Void and(Condition.And test) {
      return each(test.parts());
    }

    @Override
    public Void or(Condition.Or test) {
      return each(test.parts());
    }

    @Override
    public Void not(Condition.Not test) {
      return test.part().match(this);
    }
  }
}
