package org.ysteron.error;

import java.util.OptionalLong;

/**
 * A call was cancelled by its progress monitor. What was committed before stands; nothing else was
 * changed, and its temporary files are deleted.
 */
public final class CancelledException extends YsteronException {
  private static final long serialVersionUID = 1;

  private final long lastEntry;

  /**
   * {@code lastEntry}: the newest ledger entry that the watched handle has committed; -1 for none.
   */
  public CancelledException(long lastEntry) {
    super(
        lastEntry < 0
            ? "The call was cancelled. Nothing was changed."
            : "The call was cancelled. Its commits up to entry %d stand, and nothing else was changed. Run it again to continue."
                .formatted(lastEntry));
    this.lastEntry = lastEntry;
  }

  /** The newest ledger entry that was committed before by the same watched handle, if any. */
  public OptionalLong lastEntry() {
    return lastEntry < 0 ? OptionalLong.empty() : OptionalLong.of(lastEntry);
  }
}
