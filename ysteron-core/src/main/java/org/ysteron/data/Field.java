package org.ysteron.data;

import java.util.Optional;
import org.ysteron.error.InvalidInputException;

/**
 * A column, a field of a struct, or the element, key or value of a list or map.
 *
 * @param id its number in the table, which never changes and is never used again; 0 before it is in
 *     a table
 * @param name compared exactly; 1 to 255 characters, no control characters
 * @param type the type
 * @param required whether null is rejected (NOT NULL)
 * @param writeDefault the default of rows that are written from now on
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
    return new Field(0, name, type, false, Optional.empty(), Optional.empty(), "");
  }

  public Field notNull() {
    return withRequired(true);
  }

  /** This field, nullable or NOT NULL. */
  public Field withRequired(boolean isRequired) {
    return new Field(id, name, type, isRequired, writeDefault, addedDefault, comment);
  }

  /** This field under another name. */
  public Field withName(String newName) {
    return new Field(id, newName, type, required, writeDefault, addedDefault, comment);
  }

  /** This field without a default. */
  public Field withoutDefault() {
    return new Field(id, name, type, required, Optional.empty(), addedDefault, comment);
  }

  /** This field, whose default is also the value of older rows. */
  public Field asAdded() {
    return new Field(id, name, type, required, writeDefault, writeDefault, comment);
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
        addedDefault.map(value -> Widening.value(value, type, other)),
        comment);
  }

  /** This field with a default, given as a value of the type's Java class. */
  public Field withDefault(Object value) {
    Object checked;
    try {
      checked = Values.accept(value, type);
    } catch (InvalidInputException e) {
      throw new InvalidInputException(
          "The default of column " + name + " does not fit: " + e.getMessage(), e);
    }
    return new Field(id, name, type, required, Optional.of(checked), addedDefault, comment);
  }

  public Field withComment(String text) {
    return new Field(id, name, type, required, writeDefault, addedDefault, text);
  }

  /** This field under an id. */
  public Field withId(int newId) {
    return new Field(newId, name, type, required, writeDefault, addedDefault, comment);
  }

  /** This field with another type. */
  public Field withType(Type newType) {
    return new Field(id, name, newType, required, writeDefault, addedDefault, comment);
  }
}
