package org.ysteron.merge;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;
import org.ysteron.data.Row;
import org.ysteron.statement.ChangeStyle;

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
  public record Clause(Kind kind, Optional<BiPredicate<Row, Row>> condition, Action action) {}

  /** What a clause does. */
  public sealed interface Action {}

  /** Deletes the row of the table. */
  public record Delete() implements Action {}

  /** Gives every column that the source has the source's value, or inserts the source's row. */
  public record TakeAll() implements Action {}

  /**
   * Gives columns new values, from the row of the table and that of the source; the others keep
   * theirs, or get their default when the row is inserted.
   */
  public record Set(Map<String, BiFunction<Row, Row, Object>> values) implements Action {}

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
