package org.ysteron.sql;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Query;
import org.ysteron.report.WriteResult;

/** What a statement of a session gave. */
public sealed interface SqlResult {

  /** A query, which can be read. */
  record Rows(Query query) implements SqlResult {}

  /**
   * Rows were changed.
   *
   * @param result what was changed; within a transaction it has no commit yet
   */
  record Changed(WriteResult result) implements SqlResult {
    /** What was changed, for people. */
    public String what() {
      List<String> parts = new ArrayList<>();
      add(parts, result.report().rowsInserted(), "inserted");
      add(parts, result.report().rowsUpdated(), "updated");
      add(parts, result.report().rowsDeleted(), "deleted");
      return parts.isEmpty() ? "No row was changed." : String.join(", ", parts) + ".";
    }

    private static void add(List<String> parts, long rows, String what) {
      if (rows > 0) {
        parts.add("%,d %s %s".formatted(rows, rows == 1 ? "row" : "rows", what));
      }
    }

    /** The number of rows that were inserted, updated and deleted. */
    public long rows() {
      return result.report().rowsInserted()
          + result.report().rowsUpdated()
          + result.report().rowsDeleted();
    }
  }

  /**
   * Something else was done.
   *
   * @param what for people, such as {@code Table created.}
   */
  record Done(String what) implements SqlResult {}
}
