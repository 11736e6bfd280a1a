package org.ysteron.report;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Type;

/**
 * How a table has grown by rows.
 *
 * @param columns the columns that are new or wider
 * @param words what a person should know of their names
 */
public record Grown(List<Column> columns, List<String> words) {
  public static final Grown NOTHING = new Grown(List.of(), List.of());

  /**
   * A column that is new or wider.
   *
   * @param path where it is
   * @param before its type before; empty for a new one
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
