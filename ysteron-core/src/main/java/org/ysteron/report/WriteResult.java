package org.ysteron.report;

import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/**
 * The result of a write.
 *
 * @param report rows and files
 * @param committed its commit; empty inside a transaction, and if nothing was changed
 * @param skipped rows that were skipped, if the rules allow it
 * @param grown columns that the rows have added or widened
 */
public record WriteResult(
    ChangeReport report, Optional<Committed> committed, SkippedRows skipped, Grown grown) {
  /** Nothing was changed or committed. */
  public static final WriteResult NOTHING = new WriteResult(ChangeReport.NOTHING, Optional.empty());

  /** A result without growth of the table. */
  public WriteResult(ChangeReport report, Optional<Committed> committed) {
    this(report, committed, SkippedRows.NONE, Grown.NOTHING);
  }

  /** This result with growth of the table. */
  public WriteResult with(Grown growth) {
    return new WriteResult(report, committed, skipped, growth);
  }

  /** The result of a commit. */
  public static WriteResult of(ChangeReport report, Committed committed) {
    return new WriteResult(report, Optional.of(committed));
  }

  /** Whether there is a commit. */
  public boolean isCommitted() {
    return committed.isPresent();
  }

  /** Author, time and note of the commit. */
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
