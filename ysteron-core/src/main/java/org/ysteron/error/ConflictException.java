package org.ysteron.error;

import java.util.Optional;
import java.util.OptionalLong;

/** A commit met another one that it cannot be combined with. Nothing was changed. */
public final class ConflictException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private static final long NONE = -1;

  private final Kind kind;
  private final String table;
  private final long startVersion;
  private final long newestVersion;

  /** What was in the way. */
  public enum Kind {
    /** Another commit changed or removed rows that this one changes, too. */
    ROWS_CHANGED(true),
    /** Another commit made or changed rows that this one's reads would have found, or not found. */
    ROWS_READ(true),
    /** Another commit brought rows with the keys of this one's rows. */
    KEYS(true),
    /** Another commit altered what this one alters. */
    ALTERED(true),
    /** Another commit altered the table so that rows of one of the two do not fit. */
    ROWS_UNFIT(true),
    /** The table was made an earlier version again. */
    REWOUND(true),
    /** The table was dropped. */
    DROPPED(false),
    /** The named writer was opened elsewhere. */
    WRITER_REPLACED(false),
    /** This started before what may still be committed. */
    STARTED_TOO_EARLY(true),
    /** Other commits were faster again and again. */
    LOST_RACE(true);

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
      Kind kind, String table, long startVersion, long newestVersion, String message) {
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
