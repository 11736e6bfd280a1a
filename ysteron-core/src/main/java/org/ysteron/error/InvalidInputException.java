package org.ysteron.error;

import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** An argument cannot be used: a name, a schema, a row, a condition. Nothing was changed. */
public class InvalidInputException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final @Nullable String columnName;

  public InvalidInputException(String message) {
    this(message, null);
  }

  public InvalidInputException(String message, @Nullable Throwable cause) {
    this(message, null, cause);
  }

  /** An argument that is wrong for a column; {@code columnName} is null for none. */
  public InvalidInputException(
      String message, @Nullable String columnName, @Nullable Throwable cause) {
    super(message, cause);
    this.columnName = columnName;
  }

  /** An argument that is wrong for a column. */
  public static InvalidInputException ofColumn(String columnName, String message) {
    return new InvalidInputException(message, columnName, null);
  }

  /** The path of the column that the argument is wrong for; empty when it is not about one. */
  public Optional<String> columnName() {
    return Optional.ofNullable(columnName);
  }
}
