package org.ysteron.drift;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.table.Alteration;
import org.ysteron.table.TableForm;

/**
 * How a table has grown by rows.
 *
 * @param columns the columns that are new or wider
 * @param words what a person should know of their names
 */
public record Grown(List<Column> columns, List<String> words) {
  public static final Grown NOTHING = new Grown(List.of(), List.of());

  /** What alterations of a table for rows come to. */
  public static Grown of(TableForm floor, List<Alteration> alterations, List<String> words) {
    List<Column> columns = new ArrayList<>();
    for (Alteration alteration : alterations) {
      if (alteration instanceof Alteration.Grow grow) {
        Optional<Type> before = grow.there(floor.schema()).map(Field::type);
        columns.add(new Column(grow.path(), before, grow.field().type()));
      }
    }
    return new Grown(columns, words);
  }

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
