package org.ysteron.data;

import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;

/**
 * A column, a field of a struct, or the element, key or value of a list or map.
 *
 * @param id its number in the table, which never changes and is never used again; 0 before it is in
 *     a table
 * @param name compared exactly; 1 to 255 characters, no control characters
 * @param type the type
 * @param required whether null is rejected (NOT NULL)
 * @param writeDefault the default of rows that are written from now on, when it is a value
 * @param computedDefault the same, when it is computed for each statement; only columns have this
 * @param addedDefault the value of rows that are older than the field: its default when it was
 *     added
 * @param comment for people; may be empty
 */
public record Field(
    int id,
    String name,
    Type type,
    boolean required,
    Optional<Object> writeDefault,
    Optional<Formula> computedDefault,
    Optional<Object> addedDefault,
    String comment) {

  private static final int LONGEST_NAME = 255;

  public Field {
    if (name.isEmpty() || name.length() > LONGEST_NAME) {
      throw new InvalidInputException(
          name.isEmpty()
              ? "A column name is empty."
              : "A column name of %d characters is too long; the limit is %d."
                  .formatted(name.length(), LONGEST_NAME));
    }
    if (name.codePoints().anyMatch(Character::isISOControl)) {
      throw new InvalidInputException(
          "A column name contains control characters: " + Values.quote(name) + ".");
    }
  }

  /** A nullable field without default and comment that is not in a table yet. */
  public static Field of(String name, Type type) {
    return new Field(
        0, name, type, false, Optional.empty(), Optional.empty(), Optional.empty(), "");
  }

  public Field notNull() {
    return withRequired(true);
  }

  /** This field, nullable or NOT NULL. */
  public Field withRequired(boolean isRequired) {
    return new Field(
        id, name, type, isRequired, writeDefault, computedDefault, addedDefault, comment);
  }

  /** This field under another name. */
  public Field withName(String newName) {
    return new Field(
        id, newName, type, required, writeDefault, computedDefault, addedDefault, comment);
  }

  /** This field without a default. */
  public Field withoutDefault() {
    return new Field(
        id, name, type, required, Optional.empty(), Optional.empty(), addedDefault, comment);
  }

  /** This field, whose default is also the value of older rows. */
  public Field asAdded() {
    return computedDefault.isPresent() ? this : withAdded(writeDefault);
  }

  /** This field with a value of older rows. */
  public Field withAdded(Optional<Object> value) {
    return new Field(id, name, type, required, writeDefault, computedDefault, value, comment);
  }

  /** This field with a wider type or other inner fields; its defaults are converted. */
  public Field reshaped(Type other) {
    if (other.equals(type)) {
      return this;
    }
    return new Field(
        id,
        name,
        other,
        required,
        writeDefault.map(value -> Widening.value(value, type, other)),
        computedDefault,
        addedDefault.map(value -> Widening.value(value, type, other)),
        comment);
  }

  /**
   * This field with a default.
   *
   * @param value a value of the type's Java class, or an expression without columns (see {@code
   *     org.ysteron.expr.Expression}), which is computed for each statement that writes
   */
  public Field withDefault(Object value) {
    if (value instanceof Formula formula) {
      return new Field(
          id, name, type, required, Optional.empty(), Optional.of(formula), addedDefault, comment);
    }
    Object checked;
    try {
      checked = Values.accept(value, type);
    } catch (InvalidInputException e) {
      throw new InvalidInputException(
          "The default of column " + name + " does not fit: " + e.getMessage(), e);
    }
    return new Field(
        id, name, type, required, Optional.of(checked), Optional.empty(), addedDefault, comment);
  }

  /** Whether rows that leave it out get something else than null. */
  public boolean hasDefault() {
    return writeDefault.isPresent() || computedDefault.isPresent();
  }

  /**
   * What rows get that leave it out: a value, a {@link Formula} that is still to be computed, or
   * null.
   */
  public @Nullable Object standard() {
    return writeDefault.orElseGet(() -> computedDefault.orElse(null));
  }

  /** The default as SQL; empty without one. */
  public Optional<String> defaultText() {
    return computedDefault.map(Object::toString).or(() -> writeDefault.map(Values::literal));
  }

  public Field withComment(String text) {
    return new Field(id, name, type, required, writeDefault, computedDefault, addedDefault, text);
  }

  /** This field under an id. */
  public Field withId(int newId) {
    return new Field(
        newId, name, type, required, writeDefault, computedDefault, addedDefault, comment);
  }

  /** This field with another type. */
  public Field withType(Type newType) {
    return new Field(
        id, name, newType, required, writeDefault, computedDefault, addedDefault, comment);
  }
}
