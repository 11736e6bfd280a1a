package org.ysteron.error;

import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A lake, append, writer or transaction was used after its end: it was committed, closed, or failed
 * earlier. After a failure nothing that it had taken since its last commit is in the lake, and the
 * cause is that failure.
 */
public final class EndedException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final Kind kind;
  private final @Nullable String table;

  /** What has ended. */
  public enum Kind {
    LAKE,
    TRANSACTION,
    APPEND,
    /** A writer of data files. */
    WRITER
  }

  /**
   * For something that has ended.
   *
   * @param table the table that it writes to; null when it is not of one table
   */
  public EndedException(
      Kind kind, @Nullable String table, String message, @Nullable Throwable cause) {
    super(message, cause);
    this.kind = kind;
    this.table = table;
  }

  /** What has ended. */
  public Kind kind() {
    return kind;
  }

  /** The name of the table that it wrote to; empty for a lake or a transaction. */
  public Optional<String> table() {
    return Optional.ofNullable(table);
  }
}
