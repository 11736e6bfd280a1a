package org.ysteron.report;

import java.time.Duration;
import java.time.Instant;
import java.util.List;

/**
 * Up to where a named reader has read.
 *
 * @param name its name, unique in the lake
 * @param entry the ledger entry of the state up to which it has read
 * @param moves how often it was moved or set again since it was created
 * @param tables the tables that it reads, by name
 * @param moved when it was set or moved last
 * @param limit for how long from then on the versions that it has read stay
 */
public record Position(
    String name, long entry, long moves, List<OfTable> tables, Instant moved, Duration limit) {
  public Position {
    tables = List.copyOf(tables);
  }

  /**
   * A table of a position.
   *
   * @param table its name now; its id when it was dropped and has expired
   * @param version the version up to which its changes were read
   * @param newest its newest version
   * @param isDropped whether it was dropped since
   * @param isMissed whether the version that was read has expired, so that changes are missed
   */
  public record OfTable(
      String table, long version, long newest, boolean isDropped, boolean isMissed) {}

  /** When it stops holding the versions that it has read. */
  public Instant ends() {
    return moved.plus(limit);
  }

  /** Whether changes of a table are missed, so that it has to be set anew. */
  public boolean isMissed() {
    return tables.stream().anyMatch(OfTable::isMissed);
  }
}
