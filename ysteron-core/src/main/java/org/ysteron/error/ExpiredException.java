package org.ysteron.error;

import java.util.Optional;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/** A version or an object existed once and is no longer kept. Nothing is damaged. */
public final class ExpiredException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private static final long NONE = -1;

  private final @Nullable String table;
  private final long version;
  private final long entry;

  /** For an object that is neither one version nor one entry. */
  public ExpiredException(String message, @Nullable Throwable cause) {
    this(null, NONE, NONE, message, cause);
  }

  private ExpiredException(
      @Nullable String table, long version, long entry, String message, @Nullable Throwable cause) {
    super(message, cause);
    this.table = table;
    this.version = version;
    this.entry = entry;
  }

  /** A table that has expired as a whole, or a version of it that is known by its time only. */
  public static ExpiredException ofTable(String table, String message) {
    return new ExpiredException(table, NONE, NONE, message, null);
  }

  /** A version of a table. */
  public static ExpiredException ofVersion(
      String table, long version, String message, @Nullable Throwable cause) {
    return new ExpiredException(table, version, NONE, message, cause);
  }

  /** An entry of the ledger, and the lake as of it. */
  public static ExpiredException ofEntry(long entry, String message, @Nullable Throwable cause) {
    return new ExpiredException(null, NONE, entry, message, cause);
  }

  /** The name of the table; empty when it is not about one. */
  public Optional<String> table() {
    return Optional.ofNullable(table);
  }

  /** The version of the table that has expired; empty when it is not about one. */
  public OptionalLong version() {
    return version == NONE ? OptionalLong.empty() : OptionalLong.of(version);
  }

  /** The ledger entry that has expired; empty when it is not about one. */
  public OptionalLong entry() {
    return entry == NONE ? OptionalLong.empty() : OptionalLong.of(entry);
  }
}
