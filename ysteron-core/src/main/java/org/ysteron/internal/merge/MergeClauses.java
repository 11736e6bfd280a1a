package org.ysteron.internal.merge;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Column;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.RowComputation;
import org.ysteron.internal.statement.Assignment;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.Typing;
import org.ysteron.option.MergeAction;

/** The clauses of a merge, bound to the columns of its table and its source. For one thread. */
public final class MergeClauses {
  private final MergeSpec spec;
  private final List<Bound> bound = new ArrayList<>();
  private final Schema schema;
  private final int[] sourceColumn;
  private final List<String> sourceNames;

  /** What becomes of a row: nothing, its removal, or new values. */
  record Outcome(boolean changes, Optional<Object[]> values) {
    static final Outcome KEPT = new Outcome(false, Optional.empty());
    static final Outcome DELETED = new Outcome(true, Optional.empty());
  }

  /**
   * A clause that is ready.
   *
   * @param test empty when it always applies
   * @param values of the columns that it sets
   */
  private record Bound(
      MergeSpec.Kind kind,
      Optional<BiPredicate<Row, Row>> test,
      MergeAction action,
      Map<String, BiFunction<Row, Row, Object>> values) {}

  MergeClauses(MergeSpec spec, Schema schema, List<Field> source) {
    this.spec = spec;
    this.schema = schema;
    this.sourceNames = source.stream().map(Field::name).toList();
    this.sourceColumn = new int[schema.columns().size()];
    for (int c = 0; c < sourceColumn.length; c++) {
      sourceColumn[c] = sourceNames.indexOf(schema.columns().get(c).name());
    }
    check();
    Schema given = Schema.ofNamesByCase(source);
    spec.clauses()
        .forEach(clause -> bound.add(bind(clause, new Typing(schema, Optional.of(given)))));
  }

  private Bound bind(MergeSpec.Clause clause, Typing typing) {
    Optional<BiPredicate<Row, Row>> test =
        clause
            .condition()
            .map(
                when -> {
                  if (when instanceof MergeSpec.When.Test by) {
                    return by.test();
                  }
                  RowComputation condition =
                      RowComputation.of(typing.type(((MergeSpec.When.Condition) when).condition()));
                  return condition::isTrue;
                });
    Map<String, BiFunction<Row, Row, Object>> values = new LinkedHashMap<>();
    if (clause.action() instanceof MergeAction.SetBy by) {
      values.putAll(by.values());
    }
    if (clause.action() instanceof MergeAction.Set set) {
      set.values()
          .forEach(
              (column, value) -> {
                if (value instanceof Column taken && taken.input() == Column.Input.SOURCE) {
                  Typed known = typing.type(value);
                  String name = ((Typed.OfColumn) known).along().get(0).name();
                  if (((Typed.OfColumn) known).along().size() == 1) {
                    values.put(column, (table, given) -> given.get(name)); // fitted as it comes
                    return;
                  }
                }
                Type type = schema.columns().get(schema.struct().indexOf(column)).type();
                RowComputation computed = RowComputation.of(typing.type(value, type));
                values.put(column, computed::value);
              });
    }
    return new Bound(clause.kind(), test, clause.action(), values);
  }

  /** The columns that an action computes values of. */
  private static Set<String> set(MergeAction action) {
    return action instanceof MergeAction.Set set
        ? set.values().keySet()
        : action instanceof MergeAction.SetBy by ? by.values().keySet() : Set.of();
  }

  private static boolean isSet(MergeAction action) {
    return action instanceof MergeAction.Set || action instanceof MergeAction.SetBy;
  }

  private void check() {
    if (spec.duplicates() instanceof MergeSpec.Duplicates.Greatest greatest
        && !sourceNames.contains(greatest.column())) {
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          greatest.column(),
          "The row with the largest %s should be used of rows with the same key, but the source has no such column.%s"
              .formatted(greatest.column(), NearNames.didYouMean(greatest.column(), sourceNames)));
    }
    if (spec.clauses().isEmpty()) {
      throw new InvalidInputException("A merge needs at least one clause.");
    }
    Set<MergeSpec.Kind> closed = new HashSet<>();
    for (MergeSpec.Clause clause : spec.clauses()) {
      if (closed.contains(clause.kind())) {
        throw new InvalidInputException(
            "A merge clause for rows %s follows one without a condition, so it would never apply. Move it before that clause, or give that clause a condition."
                .formatted(clause.kind().words()));
      }
      if (clause.condition().isEmpty()) {
        closed.add(clause.kind());
      }
      check(clause);
    }
  }

  private void check(MergeSpec.Clause clause) {
    boolean takesAll = clause.action() instanceof MergeAction.TakeAll;
    boolean deletes = clause.action() instanceof MergeAction.Delete;
    if ((deletes && clause.kind() == MergeSpec.Kind.NOT_MATCHED)
        || (takesAll && clause.kind() == MergeSpec.Kind.NOT_IN_SOURCE)) {
      throw new InvalidInputException(
          "A merge clause for rows %s cannot %s."
              .formatted(
                  clause.kind().words(),
                  deletes
                      ? "delete, because there is no row of the table"
                      : "take values from the source"));
    }
    if (takesAll) {
      for (String name : sourceNames) {
        if (schema.struct().indexOf(name) < 0) {
          throw unknown(name, "The source has a column");
        }
      }
    }
    for (String name : set(clause.action())) {
      if (schema.struct().indexOf(name) < 0) {
        throw unknown(name, "A merge clause sets a column");
      }
    }
  }

  private NotFoundException unknown(String name, String what) {
    List<String> names = schema.columns().stream().map(Field::name).toList();
    return new NotFoundException(
        NotFoundException.Kind.COLUMN,
        name,
        "%s %s, which the table does not have.%s Nothing was changed."
            .formatted(what, name, NearNames.didYouMean(name, names)));
  }

  boolean has(MergeSpec.Kind kind) {
    return spec.clauses().stream().anyMatch(clause -> clause.kind() == kind);
  }

  /** Whether matched rows of the table must be read as a whole. */
  boolean needTarget() {
    return spec.clauses().stream()
        .anyMatch(
            clause ->
                clause.kind() == MergeSpec.Kind.MATCHED
                    && (clause.condition().isPresent()
                        || spec.onlyDifferent()
                        || isSet(clause.action())
                        || (clause.action() instanceof MergeAction.TakeAll && isPartial())));
  }

  /** Whether every row of the source simply becomes the table's, as in an upsert of all columns. */
  boolean takeEverything() {
    return spec.clauses().size() == 2
        && !spec.onlyDifferent()
        && !isPartial()
        && has(MergeSpec.Kind.MATCHED)
        && has(MergeSpec.Kind.NOT_MATCHED)
        && spec.clauses().stream()
            .allMatch(c -> c.condition().isEmpty() && c.action() instanceof MergeAction.TakeAll);
  }

  /** The columns of a batch of the source in the order of the table's. */
  Batch inOrder(Batch batch) {
    List<Vector> vectors = new ArrayList<>();
    for (int column : sourceColumn) {
      vectors.add(batch.vectors().get(column));
    }
    return new Batch(schema.struct(), batch.size(), vectors);
  }

  private boolean isPartial() {
    for (int column : sourceColumn) {
      if (column < 0) {
        return true;
      }
    }
    return false;
  }

  /** Whether rows may get a key of which it is not known that no row has it. */
  boolean mayBringKeys() {
    boolean matchedByKey = schema.key().containsAll(spec.on());
    boolean computed =
        spec.clauses().stream()
            .filter(clause -> clause.kind() == MergeSpec.Kind.NOT_MATCHED)
            .anyMatch(clause -> !matchedByKey || isSet(clause.action()));
    return computed || mayChangeKeys();
  }

  /** Whether updates may change the table's key. */
  boolean mayChangeKeys() {
    for (MergeSpec.Clause clause : spec.clauses()) {
      Set<String> set =
          clause.action() instanceof MergeAction.TakeAll
              ? new HashSet<>(sourceNames)
              : set(clause.action());
      boolean updates = clause.kind() != MergeSpec.Kind.NOT_MATCHED;
      for (String key : schema.key()) {
        // A column that rows are matched on keeps its value, unless a clause computes another.
        boolean kept = spec.on().contains(key) && !isSet(clause.action());
        if (updates && set.contains(key) && !kept) {
          return true;
        }
      }
    }
    return false;
  }

  boolean deletesAllNotInSource() {
    return spec.clauses().stream()
        .filter(clause -> clause.kind() == MergeSpec.Kind.NOT_IN_SOURCE)
        .findFirst()
        .filter(clause -> clause.condition().isEmpty())
        .filter(clause -> clause.action() instanceof MergeAction.Delete)
        .isPresent();
  }

  private Optional<Bound> clause(MergeSpec.Kind kind, Row target, Row source) {
    for (Bound clause : bound) {
      if (clause.kind == kind
          && (clause.test.isEmpty() || clause.test.get().test(target, source))) {
        return Optional.of(clause);
      }
    }
    return Optional.empty();
  }

  /** What becomes of a row of the table; {@code target} is null when it was not needed. */
  Outcome matched(Row target, Row source) {
    return outcome(clause(MergeSpec.Kind.MATCHED, target, source), target, source);
  }

  Outcome notInSource(Row target) {
    return outcome(clause(MergeSpec.Kind.NOT_IN_SOURCE, target, null), target, null);
  }

  private Outcome outcome(Optional<Bound> clause, Row target, Row source) {
    if (clause.isEmpty()) {
      return Outcome.KEPT;
    }
    if (clause.get().action instanceof MergeAction.Delete) {
      return Outcome.DELETED;
    }
    Object[] values = values(clause.get(), target, source);
    return spec.onlyDifferent() && isSame(values, target)
        ? Outcome.KEPT
        : new Outcome(true, Optional.of(values));
  }

  private static boolean isSame(Object[] values, Row target) {
    for (int c = 0; c < values.length; c++) {
      if (!Objects.deepEquals(values[c], target.get(c))) {
        return false;
      }
    }
    return true;
  }

  /** The values of a row to insert for a row of the source; empty when no clause wants it. */
  Optional<Object[]> insert(Row source) {
    return clause(MergeSpec.Kind.NOT_MATCHED, null, source)
        .map(clause -> values(clause, null, source));
  }

  private Object[] values(Bound clause, Row target, Row source) {
    List<Field> columns = schema.columns();
    Object[] values = new Object[columns.size()];
    for (int c = 0; c < values.length; c++) {
      values[c] = target != null ? target.get(c) : columns.get(c).standard();
    }
    if (isSet(clause.action)) {
      Row shown = target != null ? target : source;
      clause.values.forEach(
          (column, value) -> {
            int c = schema.struct().indexOf(column);
            values[c] = computed(value, columns.get(c), target, source, shown);
          });
      return values;
    }
    for (int c = 0; c < values.length; c++) {
      if (sourceColumn[c] >= 0) {
        values[c] = source.get(sourceColumn[c]);
      }
    }
    return values;
  }

  private Object computed(
      BiFunction<Row, Row, Object> value, Field column, Row target, Row source, Row shown) {
    Object computed;
    try {
      computed = value.apply(target, source);
    } catch (ComputeException e) {
      throw Assignment.wrong(column, schema, shown, e);
    }
    return Assignment.fit(computed, column, schema, shown);
  }

  /** The columns that rows are matched on, checked against table and source. */
  public static List<String> checkOn(List<String> on, Schema schema, List<Field> source) {
    List<String> chosen = on.isEmpty() ? schema.key() : on;
    if (chosen.isEmpty()) {
      throw new InvalidInputException(
          "The table has no primary key. Name the columns to match rows on.");
    }
    List<String> missing = new ArrayList<>();
    for (String name : chosen) {
      List<Field> along = schema.resolve(Schema.path(List.of(name)));
      if (along.get(0).type().isNested()) {
        throw new InvalidInputException(
            "Rows cannot be matched on column %s, which is %s."
                .formatted(name, along.get(0).type()));
      }
      if (source.stream().noneMatch(field -> field.name().equals(name))) {
        missing.add(name);
      }
    }
    if (!missing.isEmpty()) {
      throw new NotFoundException(
          NotFoundException.Kind.COLUMN,
          missing.get(0),
          "Rows should be matched on %s, which the source does not have. Nothing was changed."
              .formatted(String.join(", ", missing)));
    }
    return List.copyOf(chosen);
  }
}
