package org.ysteron.maintenance;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.report.Committed;

/**
 * What a compaction did.
 *
 * @param read files that were combined
 * @param written files that were written instead
 * @param maskedRows deleted rows that were removed from the files
 * @param commits the commits, in order
 * @param skipped files that should have been combined but were not
 * @param isSpent whether the budget ended it, so that there may be more to do
 */
public record CompactionReport(
    Amount read,
    Amount written,
    long maskedRows,
    List<Committed> commits,
    List<SkippedFile> skipped,
    boolean isSpent) {
  /** Nothing was done. */
  public static final CompactionReport NOTHING =
      new CompactionReport(Amount.NONE, Amount.NONE, 0, List.of(), List.of(), false);

  public CompactionReport {
    commits = List.copyOf(commits);
    skipped = List.copyOf(skipped);
  }

  /**
   * Some files.
   *
   * @param files how many
   * @param bytes their sizes together
   * @param rows rows that count
   */
  public record Amount(long files, long bytes, long rows) {
    public static final Amount NONE = new Amount(0, 0, 0);

    /** This and more. */
    public Amount and(Amount more) {
      return new Amount(files + more.files, bytes + more.bytes, rows + more.rows);
    }
  }

  /**
   * A file that was not packed.
   *
   * @param number its number in the table
   * @param name of its object in the store
   * @param reason why
   */
  public record SkippedFile(long number, String name, String reason) {}

  /** This and what was packed by one more commit. */
  public CompactionReport and(Amount gone, Amount came, long masked, Committed commit) {
    List<Committed> all = new ArrayList<>(commits);
    all.add(commit);
    return new CompactionReport(
        read.and(gone), written.and(came), maskedRows + masked, all, skipped, isSpent);
  }

  /** This, with another file left out. */
  public CompactionReport without(SkippedFile file) {
    List<SkippedFile> all = new ArrayList<>(skipped);
    all.add(file);
    return new CompactionReport(read, written, maskedRows, commits, all, isSpent);
  }

  /** This, ended by its budget. */
  public CompactionReport spent() {
    return new CompactionReport(read, written, maskedRows, commits, skipped, true);
  }
}
