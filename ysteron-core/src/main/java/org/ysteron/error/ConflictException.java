package org.ysteron.error;

import java.util.Optional;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/** A commit conflicts with another commit. Nothing was changed; {@link #kind()} says why. */
public final class ConflictException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private static final long NONE = -1;

  private final Kind kind;
  private final @Nullable String table;
  private final long startVersion;
  private final long newestVersion;

  /** What was in the way. */
  public enum Kind {
    /** Another commit changed or removed rows that this one changes, too. */
    WRITE_WRITE(true),
    /** Another commit changed rows that this one has read, or would have read. */
    READ_WRITE(true),
    /** Another commit inserted rows with the same primary keys. */
    DUPLICATE_KEY(true),
    /** Another commit altered the same part of the table's schema, layout or settings. */
    SCHEMA_CHANGED(true),
    /** Rows of one commit break a constraint that the other commit added. */
    CONSTRAINT(true),
    /** The table was made an earlier version again. */
    REWOUND(true),
    /** Another commit moved, set or dropped the reader's position. */
    POSITION_MOVED(true),
    /** The table was dropped. */
    TABLE_DROPPED(false),
    /** The named writer was opened again elsewhere, which ended this session. */
    WRITER_FENCED(false),
    /** This started before the horizon of a sweep, and can no longer be committed. */
    SNAPSHOT_TOO_OLD(true),
    /** Other commits came first in every try. */
    TOO_MANY_RETRIES(true);

    private final boolean worthAnotherTry;

    Kind(boolean worthAnotherTry) {
      this.worthAnotherTry = worthAnotherTry;
    }
  }

  /** A conflict that is not about one table. */
  public ConflictException(Kind kind, String message) {
    this(kind, null, NONE, NONE, message);
  }

  /** A conflict about a table. */
  public ConflictException(Kind kind, String table, String message) {
    this(kind, table, NONE, NONE, message);
  }

  /**
   * A conflict about a table.
   *
   * @param startVersion its version when the work started
   * @param newestVersion its version at the commit
   */
  public ConflictException(
      Kind kind, @Nullable String table, long startVersion, long newestVersion, String message) {
    super(message);
    this.kind = kind;
    this.table = table;
    this.startVersion = startVersion;
    this.newestVersion = newestVersion;
  }

  /** What was in the way. */
  public Kind kind() {
    return kind;
  }

  /** The name of the table; empty when it is not about one. */
  public Optional<String> table() {
    return Optional.ofNullable(table);
  }

  /** The table's version when the work started. */
  public OptionalLong startVersion() {
    return version(startVersion);
  }

  /** The table's version at the commit, which the other commits have made. */
  public OptionalLong newestVersion() {
    return version(newestVersion);
  }

  private static OptionalLong version(long number) {
    return number == NONE ? OptionalLong.empty() : OptionalLong.of(number);
  }

  /** Whether the same work, done again on the newest state, may succeed. */
  public boolean isWorthAnotherTry() {
    return kind.worthAnotherTry;
  }
}
