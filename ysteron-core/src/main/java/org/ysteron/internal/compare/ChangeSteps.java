package org.ysteron.internal.compare;

import java.util.AbstractList;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.RandomAccess;
import java.util.Set;
import org.ysteron.history.ChangeStep;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;

/**
 * The changes between each two neighbours of some versions, which are read when they are asked for.
 * Immutable.
 */
final class ChangeSteps extends AbstractList<ChangeStep> implements RandomAccess {
  private final VersionChanges net;
  private final TableHistory history;
  private final List<HistoryRecord> records;
  private final VersionPage columns;
  private final boolean isBack;

  private ChangeSteps(
      VersionChanges net, TableHistory history, List<HistoryRecord> records, VersionPage columns) {
    this.net = net;
    this.history = history;
    this.records = records;
    this.columns = columns;
    this.isBack = net.from().version() > net.to().version();
  }

  /**
   * The steps on the way of some changes.
   *
   * @param onlyKept whether versions that are not kept are passed over
   */
  static ChangeSteps of(
      VersionChanges net, VersionPage named, TableHistory history, boolean onlyKept) {
    long least = Math.min(net.from().version(), net.to().version());
    long greatest = Math.max(net.from().version(), net.to().version());
    List<HistoryRecord> records = new ArrayList<>();
    for (HistoryRecord record : history.all()) {
      if (record.version() >= least && record.version() <= greatest) {
        records.add(record);
      }
    }
    long next = least;
    for (HistoryRecord record : records) {
      if (!onlyKept && record.version() != next) {
        throw history.gone(next);
      }
      next = record.version() + 1;
    }
    if (!onlyKept && next <= greatest) {
      throw history.gone(next);
    }
    return new ChangeSteps(net, history, records, wide(named, history, records));
  }

  /** The columns of a version, each so wide that it holds the values of all others. */
  static VersionPage wide(VersionPage named, TableHistory history, List<HistoryRecord> records) {
    VersionPage wide = named;
    Set<Long> seen = new HashSet<>();
    for (HistoryRecord record : records) {
      if (seen.add(record.schemaVersion())) {
        wide = history.pageOf(record).readBy(wide);
      }
    }
    return wide;
  }

  @Override
  public int size() {
    return Math.max(0, records.size() - 1);
  }

  @Override
  public ChangeStep get(int index) {
    int at = isBack ? records.size() - 2 - index : index;
    VersionPage before = history.pageOf(records.get(at));
    VersionPage after = history.pageOf(records.get(at + 1));
    return new ChangeStep(
        after.record().told(),
        isBack ? net.of(after, before, columns) : net.of(before, after, columns));
  }
}
