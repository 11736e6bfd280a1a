package org.ysteron.proof;

import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * Damage that a check found.
 *
 * @param kind the kind of the damaged object
 * @param object the name of the object in the store, or of a part of it
 * @param problem what is wrong
 * @param affected tables and versions that cannot be read because of it, or are wrong
 * @param remedy what to do
 */
public record Finding(
    Kind kind, String object, String problem, List<Affected> affected, String remedy) {
  public Finding {
    affected = List.copyOf(affected);
  }

  /** What is wrong. */
  public enum Kind {
    /** An entry of the ledger. */
    ENTRY,
    /** A page of metadata. */
    PAGE,
    /** A data file. */
    FILE,
    /** Two parts that say different things. */
    CONTRADICTION,
    /** Rows that break what the table promises. */
    ROWS
  }

  /**
   * Versions of a table.
   *
   * @param table its name
   * @param first the first version that is affected
   * @param last the last one; of those between all that are kept are
   * @param rows how many rows of the last one are, at most
   * @param from since when it was current
   * @param until until when; empty for now
   */
  public record Affected(
      String table, long first, long last, long rows, Instant from, Optional<Instant> until) {}
}
