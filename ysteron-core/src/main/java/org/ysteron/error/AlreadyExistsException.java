package org.ysteron.error;

/** A lake, a table or a bookmark of that name exists already. Nothing was changed. */
public final class AlreadyExistsException extends InvalidInputException {
  private static final long serialVersionUID = 1L;

  private final Kind kind;
  private final String name;

  /** What exists already. */
  public enum Kind {
    LAKE,
    TABLE,
    BOOKMARK,
    POSITION,
    FILE
  }

  /**
   * For an object of a name.
   *
   * @param name the name of the table or bookmark, the location of the lake, or the file's path
   */
  public AlreadyExistsException(Kind kind, String name, String message) {
    super(message);
    this.kind = kind;
    this.name = name;
  }

  /** What exists already. */
  public Kind kind() {
    return kind;
  }

  /** The name of the table or bookmark, or the location of the lake. */
  public String name() {
    return name;
  }
}
