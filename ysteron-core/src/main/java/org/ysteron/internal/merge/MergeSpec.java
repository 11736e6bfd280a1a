package org.ysteron.internal.merge;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiPredicate;
import org.ysteron.data.Row;
import org.ysteron.expr.Expression;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.MergeAction;

/**
 * What a merge does.
 *
 * @param operation its word in the history
 * @param on the columns, of the table and of the source, whose values match a row to a row
 * @param clauses what to do; for each row the first one of its kind whose condition holds
 * @param duplicates what to do with two source rows of the same key
 * @param style how rows that are replaced or deleted go
 * @param onlyDifferent whether a row that has its new values already stays where it is
 */
public record MergeSpec(
    String operation,
    List<String> on,
    List<Clause> clauses,
    Duplicates duplicates,
    ChangeStyle style,
    boolean onlyDifferent) {

  /** A merge without clauses, on the primary key. */
  public static MergeSpec of(String operation) {
    return new MergeSpec(
        operation, List.of(), List.of(), new Duplicates.Refuse(), ChangeStyle.BY_SHARE, false);
  }

  /** The same on other columns. */
  public MergeSpec on(List<String> columns) {
    return new MergeSpec(operation, columns, clauses, duplicates, style, onlyDifferent);
  }

  /** The same with one more clause. */
  public MergeSpec with(Clause clause) {
    List<Clause> more = new ArrayList<>(clauses);
    more.add(clause);
    return new MergeSpec(operation, on, List.copyOf(more), duplicates, style, onlyDifferent);
  }

  /** The same with another answer to source rows of the same key. */
  public MergeSpec with(Duplicates other) {
    return new MergeSpec(operation, on, clauses, other, style, onlyDifferent);
  }

  /** The same, rows going in another way. */
  public MergeSpec with(ChangeStyle other) {
    return new MergeSpec(operation, on, clauses, duplicates, other, onlyDifferent);
  }

  /** The same, leaving rows alone that have their new values already. */
  public MergeSpec onlyDifferently() {
    return new MergeSpec(operation, on, clauses, duplicates, style, true);
  }

  /** Which rows a clause is of. */
  public enum Kind {
    /** A row of the table and the row of the source that matches it. */
    MATCHED("matched"),
    /** A row of the source that matches none of the table; the condition gets no table row. */
    NOT_MATCHED("not matched"),
    /** A row of the table that matches none of the source; the condition gets no source row. */
    NOT_IN_SOURCE("not in the source");

    private final String words;

    Kind(String words) {
      this.words = words;
    }

    public String words() {
      return words;
    }
  }

  /**
   * A clause.
   *
   * @param condition asked with the row of the table and that of the source, one of which is null
   *     where the kind says so; empty for every row
   */
  public record Clause(Kind kind, Optional<When> condition, MergeAction action) {}

  /** When a clause applies: if a condition is true, or a function of both rows. */
  public sealed interface When {
    /** A condition over the row of the table and that of the source. */
    record Condition(org.ysteron.expr.Condition condition) implements When {}

    /** A function of the row of the table and that of the source. */
    record Test(BiPredicate<Row, Row> test) implements When {}
  }

  /** The same with CURRENT_TIMESTAMP as a literal. */
  public MergeSpec at(Instant now) {
    return new MergeSpec(
        operation,
        on,
        clauses.stream().map(clause -> at(clause, now)).toList(),
        duplicates,
        style,
        onlyDifferent);
  }

  private static Clause at(Clause clause, Instant now) {
    Optional<When> when =
        clause
            .condition()
            .map(
                given ->
                    given instanceof When.Condition by
                        ? new When.Condition(by.condition().at(now))
                        : given);
    MergeAction action = clause.action();
    if (action instanceof MergeAction.Set set) {
      Map<String, Expression> values = new LinkedHashMap<>();
      set.values().forEach((column, value) -> values.put(column, value.at(now)));
      action = new MergeAction.Set(values);
    }
    return new Clause(clause.kind(), when, action);
  }

  /** What to do with two source rows of the same key. */
  public sealed interface Duplicates {
    /** Refuse them. */
    record Refuse() implements Duplicates {}

    /** Take the one that comes last. */
    record Last() implements Duplicates {}

    /** Take the one with the greatest value of a column, of equal ones the last. */
    record Greatest(String column) implements Duplicates {}
  }
}
