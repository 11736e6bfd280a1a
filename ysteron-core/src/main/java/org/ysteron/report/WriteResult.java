package org.ysteron.report;

import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/**
 * What a write did.
 *
 * @param report rows and files
 * @param committed its commit; empty inside a transaction, and when nothing was changed
 * @param skipped rows that were given and are not there, where the rules say to leave them out
 * @param grown how the table has grown by the rows
 */
public record WriteResult(
    ChangeReport report, Optional<Committed> committed, SkippedRows skipped, Grown grown) {
  /** Nothing was done, and nothing committed. */
  public static final WriteResult NOTHING = new WriteResult(ChangeReport.NOTHING, Optional.empty());

  /** What was done to the rows that there were. */
  public WriteResult(ChangeReport report, Optional<Committed> committed) {
    this(report, committed, SkippedRows.NONE, Grown.NOTHING);
  }

  /** The same, of a table that has grown. */
  public WriteResult with(Grown growth) {
    return new WriteResult(report, committed, skipped, growth);
  }

  /** What a commit did. */
  public static WriteResult of(ChangeReport report, Committed committed) {
    return new WriteResult(report, Optional.of(committed));
  }

  /** Whether there is a commit. */
  public boolean isCommitted() {
    return committed.isPresent();
  }

  /** Who, when and why. */
  public Optional<CommitStamp> commit() {
    return committed.map(Committed::commit);
  }

  /** The number of the ledger entry. */
  public OptionalLong entry() {
    return commit().map(stamp -> OptionalLong.of(stamp.entry())).orElse(OptionalLong.empty());
  }

  /** The new version of each table that was changed, by the table's id. */
  public Map<UUID, Long> versions() {
    return committed.map(Committed::versions).orElse(Map.of());
  }
}
