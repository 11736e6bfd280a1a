package org.ysteron.report;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Type;

/**
 * Columns that a load has added or widened.
 *
 * @param columns the new or widened columns
 * @param words remarks about column names, for people
 */
public record Grown(List<Column> columns, List<String> words) {
  public static final Grown NOTHING = new Grown(List.of(), List.of());

  /**
   * A new or widened column.
   *
   * @param path its path
   * @param before its type before; empty for a new column
   * @param now its type now
   */
  public record Column(String path, Optional<Type> before, Type now) {
    @Override
    public String toString() {
      return before
          .map(type -> "widened column %s from %s to %s".formatted(path, type, now))
          .orElse("added column %s %s".formatted(path, now));
    }
  }
}
