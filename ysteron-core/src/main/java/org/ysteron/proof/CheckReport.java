package org.ysteron.proof;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.maintenance.LakeHealth;

/**
 * The result of a check.
 *
 * @param lake the id of the lake
 * @param entry the newest entry that was checked
 * @param hash the hash of that entry, which proves the whole state
 * @param time the time of that entry
 * @param depth how deep the check went
 * @param counts what was checked
 * @param findings the first findings
 * @param unlisted number of further findings
 * @param erasures erasures that were started and are not finished; they are not damage
 * @param position the last data file that was checked, if the budget ended the check
 */
public record CheckReport(
    UUID lake,
    long entry,
    String hash,
    Instant time,
    CheckDepth depth,
    Counts counts,
    List<Finding> findings,
    long unlisted,
    List<LakeHealth.Erasure> erasures,
    Optional<String> position) {
  public CheckReport {
    findings = List.copyOf(findings);
    erasures = List.copyOf(erasures);
  }

  /**
   * How much was looked at.
   *
   * @param tables tables, dropped ones that can be brought back included
   * @param versions versions that are kept
   * @param entries entries of the ledger
   * @param pages pages of metadata, each once
   * @param files data files, each once
   * @param bytes of entries, pages and data files that were read
   * @param rows rows that were read
   * @param gone objects that were let go by others meanwhile
   */
  public record Counts(
      long tables,
      long versions,
      long entries,
      long pages,
      long files,
      long bytes,
      long rows,
      long gone) {}

  /** Whether nothing was found. */
  public boolean isWhole() {
    return findings.isEmpty();
  }
}
