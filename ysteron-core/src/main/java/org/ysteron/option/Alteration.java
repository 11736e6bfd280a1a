package org.ysteron.option;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.expr.Condition;

/**
 * A change of a table's columns, constraints, layout or settings. Columns are named by paths, which
 * can lead into structs, lists ({@code element}) and maps ({@code key}, {@code value}).
 */
public sealed interface Alteration {

  /** The paths of existing columns that conflict with concurrent alterations. */
  default Set<String> changes() {
    return Set.of();
  }

  /** Calls the case of this kind of alteration. */
  <T> T match(Cases<T> cases);

  /** One method per kind of alteration. */
  interface Cases<T> {
    T addColumn(AddColumn alteration);

    T grow(Grow alteration);

    T dropColumn(DropColumn alteration);

    T renameColumn(RenameColumn alteration);

    T moveColumn(MoveColumn alteration);

    T widenColumn(WidenColumn alteration);

    T setRequired(SetRequired alteration);

    T setDefault(SetDefault alteration);

    T setComment(SetComment alteration);

    T setKey(SetKey alteration);

    T addCheck(AddCheck alteration);

    T dropCheck(DropCheck alteration);

    T setLeftovers(SetLeftovers alteration);

    T setLayout(SetLayout alteration);

    T setSetting(SetSetting alteration);
  }

  /**
   * The position of a column among its siblings.
   *
   * @param where first, last, or relative to the sibling
   * @param sibling the name of the sibling; empty for first and last
   */
  record Place(Where where, String sibling) {
    /** First, last, or relative to a sibling. */
    public enum Where {
      FIRST,
      LAST,
      BEFORE,
      AFTER
    }

    public static final Place FIRST = new Place(Where.FIRST, "");
    public static final Place LAST = new Place(Where.LAST, "");

    public static Place after(String sibling) {
      return new Place(Where.AFTER, sibling);
    }

    public static Place before(String sibling) {
      return new Place(Where.BEFORE, sibling);
    }

    @Override
    public String toString() {
      String word = where.toString().toLowerCase(java.util.Locale.ROOT);
      return sibling.isEmpty() ? word : word + " " + sibling;
    }
  }

  /**
   * Adds a column; existing rows have its default, or null.
   *
   * @param parent the struct to which it is added; empty for the table
   */
  record AddColumn(String parent, Field field, Place place) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.addColumn(this);
    }

    @Override
    public String toString() {
      return "add "
          + Schema.below(parent, field.name())
          + " "
          + field.type()
          + tail(field)
          + at(place);
    }
  }

  /**
   * Adds a column, or widens the column of that name to hold both types, at any depth. Concurrent
   * alterations of this kind do not conflict.
   */
  record Grow(String parent, Field field) implements Alteration {
    /** The path of the column. */
    public String path() {
      return Schema.below(parent, field.name());
    }

    /** The existing column of that name. */
    public Optional<Field> there(Schema schema) {
      List<Field> siblings =
          parent.isEmpty() ? schema.columns() : Schema.children(schema.find(parent).type());
      return siblings.stream().filter(sibling -> sibling.name().equals(field.name())).findFirst();
    }

    @Override
    public <T> T match(Cases<T> cases) {
      return cases.grow(this);
    }

    @Override
    public String toString() {
      return "grow " + path() + " " + field.type();
    }
  }

  /** Drops a column; its values are not read any more. */
  record DropColumn(String path) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.dropColumn(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return "drop " + path;
    }
  }

  /** Renames a column. */
  record RenameColumn(String path, String newName) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.renameColumn(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return "rename " + path + " to " + newName;
    }
  }

  /** Moves a column among its siblings. */
  record MoveColumn(String path, Place place) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.moveColumn(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return "move " + path + " " + place;
    }
  }

  /** Widens the type of a column. */
  record WidenColumn(String path, Type type) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.widenColumn(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return "widen " + path + " to " + type;
    }
  }

  /** Makes a column NOT NULL or nullable. */
  record SetRequired(String path, boolean required) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setRequired(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return (required ? "set not null " : "drop not null ") + path;
    }
  }

  /** Sets or drops the default of a column. */
  record SetDefault(String path, Optional<Object> value) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setDefault(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return value
          .map(v -> "set default " + path + " " + Values.literal(v))
          .orElse("drop default " + path);
    }
  }

  /** Sets the comment of a column; empty for none. */
  record SetComment(String path, String text) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setComment(this);
    }

    @Override
    public Set<String> changes() {
      return Set.of(path);
    }

    @Override
    public String toString() {
      return "comment " + path + " " + Values.literal(text);
    }
  }

  /** Sets the primary key, whose columns become NOT NULL; no columns for no key. */
  record SetKey(List<String> columns) implements Alteration {
    public SetKey {
      columns = List.copyOf(columns);
    }

    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setKey(this);
    }

    @Override
    public String toString() {
      return columns.isEmpty() ? "drop key" : "set key " + String.join(", ", columns);
    }
  }

  /** Adds a check constraint. */
  record AddCheck(String name, Condition condition) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.addCheck(this);
    }

    @Override
    public Set<String> changes() {
      return condition.columns();
    }

    @Override
    public String toString() {
      return "add check " + name + " (" + condition + ")";
    }
  }

  /** Drops a check constraint. */
  record DropCheck(String name) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.dropCheck(this);
    }

    @Override
    public String toString() {
      return "drop check " + name;
    }
  }

  /** Sets the leftovers column, of type JSON; empty for none. */
  record SetLeftovers(Optional<String> column) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setLeftovers(this);
    }

    @Override
    public String toString() {
      return column.map(name -> "set leftovers " + name).orElse("drop leftovers");
    }
  }

  /** Sets the layout of files that are written from now on. */
  record SetLayout(LayoutPlan plan) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setLayout(this);
    }

    @Override
    public String toString() {
      return "set layout " + plan;
    }
  }

  /** Changes a setting (see {@link TableSettings}). */
  record SetSetting(String name, Object value) implements Alteration {
    @Override
    public <T> T match(Cases<T> cases) {
      return cases.setSetting(this);
    }

    @Override
    public String toString() {
      return "set " + name + " " + value;
    }
  }

  private static String at(Place place) {
    return place.equals(Place.LAST) ? "" : " " + place;
  }

  private static String tail(Field field) {
    return (field.required() ? " not null" : "")
        + field.defaultText().map(value -> " default " + value).orElse("");
  }
}
