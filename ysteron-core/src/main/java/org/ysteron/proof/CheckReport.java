package org.ysteron.proof;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.maintenance.LakeHealth;

/**
 * What a check found.
 *
 * @param lake the lake
 * @param entry the newest entry that was looked at
 * @param hash its hash, which proves the whole state
 * @param time its time
 * @param depth how much was looked at
 * @param counts what was looked at
 * @param findings what is wrong, at most so many
 * @param unlisted how many more findings there are
 * @param erasures those that were begun and are not finished, which is nothing wrong
 * @param position behind which data files were not looked at, since a budget was spent
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
