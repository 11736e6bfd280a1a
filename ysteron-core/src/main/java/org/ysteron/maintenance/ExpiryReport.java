package org.ysteron.maintenance;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.ysteron.report.Committed;

/**
 * What an expiry did, or would do.
 *
 * @param tables the tables of which versions expired
 * @param commits the commits, in order; empty after a dry run
 */
public record ExpiryReport(List<Expired> tables, List<Committed> commits) {
  /** Nothing went. */
  public static final ExpiryReport NOTHING = new ExpiryReport(List.of(), List.of());

  public ExpiryReport {
    tables = List.copyOf(tables);
    commits = List.copyOf(commits);
  }

  /**
   * What went of a table.
   *
   * @param table its name
   * @param versions how many versions
   * @param gaps which, the oldest first
   * @param kept how many versions are left
   * @param held versions that only a hold keeps, each with its names
   * @param freed data files that nothing needs any more; a sweep deletes them
   * @param bytes their sizes together
   * @param isWhole whether the table itself went, having been dropped
   */
  public record Expired(
      String table,
      long versions,
      List<Gap> gaps,
      long kept,
      SortedMap<Long, List<String>> held,
      long freed,
      long bytes,
      boolean isWhole) {
    public Expired {
      gaps = List.copyOf(gaps);
      held = Collections.unmodifiableSortedMap(new TreeMap<>(held));
    }

    /** This and what a later commit did to the table. */
    public Expired then(Expired later) {
      List<Gap> all = new ArrayList<>(gaps);
      for (Gap next : later.gaps) {
        Gap last = all.get(all.size() - 1);
        if (next.from.equals(last.from)) { // it goes on where the other one ended
          all.set(all.size() - 1, new Gap(last.first, next.last, last.from, next.to));
        } else {
          all.add(next);
        }
      }
      return new Expired(
          later.table,
          versions + later.versions,
          all,
          later.kept,
          later.held,
          freed + later.freed,
          bytes + later.bytes,
          later.isWhole);
    }
  }

  /**
   * Versions one after the other that went, and the times at which the table cannot be read any
   * more.
   *
   * @param first the first version
   * @param last the last version
   * @param from the first instant that is gone
   * @param to the first instant after that which can be read
   */
  public record Gap(long first, long last, Instant from, Instant to) {}

  /** How many versions went. */
  public long versions() {
    return tables.stream().mapToLong(Expired::versions).sum();
  }

  /** How many data files nothing needs any more. */
  public long freed() {
    return tables.stream().mapToLong(Expired::freed).sum();
  }

  /** The sizes of those data files. */
  public long bytes() {
    return tables.stream().mapToLong(Expired::bytes).sum();
  }

  /** This and what another one did. */
  public ExpiryReport and(ExpiryReport more) {
    return new ExpiryReport(
        Stream.concat(tables.stream(), more.tables.stream()).toList(),
        Stream.concat(commits.stream(), more.commits.stream()).toList());
  }
}
