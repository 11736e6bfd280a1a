package org.ysteron.internal.compare;

import java.util.HashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Predicate;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.history.MadeBy;
import org.ysteron.history.RowOrigin;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;

/**
 * Which versions rows come from. A row was inserted by the first version whose next serial is above
 * the row's, and last changed by the commit that is its birth; both follow from the history alone.
 * For one thread.
 */
public final class RowOrigins {
  private final TableHistory history;
  private final Map<Long, MadeBy> byBirth = new HashMap<>();

  /** By the first serial that each version gave out. */
  private final TreeMap<Long, Inserted> bySerial = new TreeMap<>();

  /** What gave out the serials before one. */
  private record Inserted(long behind, MadeBy by) {}

  RowOrigins(TableHistory history) {
    this.history = history;
  }

  /**
   * The origins of the rows of a version that fulfil a condition.
   *
   * @param columns the columns to show, by path; empty for all
   */
  public static Results<RowOrigin> of(
      LakeCore core,
      TableHistory history,
      VersionPage version,
      Condition condition,
      List<String> columns) {
    RowOrigins origins = new RowOrigins(history);
    Schema shown = columns.isEmpty() ? version.schema() : version.schema().select(columns);
    Filter filter = version.filter(core.reading().fixed(condition), core.pages());
    FilesScan scan =
        FilesScan.told(
            core.reading(), new ScanPlan(version, filter, core.reading()), shown, filter);
    Iterator<RowOrigin> rows = origins.iterator(scan);
    return new Results<>(() -> rows.hasNext() ? rows.next() : null, scan::close);
  }

  private Iterator<RowOrigin> iterator(FilesScan scan) {
    return new Iterator<>() {
      private Optional<FileRows> rows = Optional.empty();
      private int next;

      @Override
      public boolean hasNext() {
        while (rows.isEmpty() || next == rows.get().size()) {
          rows = scan.next();
          next = 0;
          if (rows.isEmpty()) {
            return false;
          }
        }
        return true;
      }

      @Override
      public RowOrigin next() {
        FileRows of = rows.orElseThrow();
        int row = next++;
        long serial = of.serial(row);
        return new RowOrigin(serial, of.rows().row(row), inserted(serial), changed(of.birth(row)));
      }
    };
  }

  private MadeBy inserted(long serial) {
    Map.Entry<Long, Inserted> known = bySerial.floorEntry(serial);
    if (known != null && serial < known.getValue().behind()) {
      return known.getValue().by();
    }
    Predicate<HistoryRecord> isLate = record -> record.nextSerial() > serial;
    Optional<HistoryRecord> before = history.lastBefore(isLate);
    MadeBy by = between(before);
    long first = before.map(HistoryRecord::nextSerial).orElse(0L);
    long behind = behind(before).nextSerial();
    bySerial.put(first, new Inserted(behind, by));
    return by;
  }

  private HistoryRecord behind(Optional<HistoryRecord> before) {
    return before.isPresent() ? history.after(before.get()).orElseThrow() : history.oldest();
  }

  private MadeBy between(Optional<HistoryRecord> before) {
    HistoryRecord next = behind(before);
    long expected = before.map(record -> record.version() + 1).orElse(0L);
    return next.version() == expected
        ? exact(next)
        : new MadeBy(before.map(HistoryRecord::told), next.told(), false);
  }

  private static MadeBy exact(HistoryRecord record) {
    return new MadeBy(Optional.empty(), record.told(), true);
  }

  private MadeBy changed(long birth) {
    return byBirth.computeIfAbsent(
        birth,
        ordinal -> {
          Optional<HistoryRecord> last = history.lastUpTo(ordinal);
          return last.filter(record -> record.commit().ordinal() == ordinal)
              .map(RowOrigins::exact)
              .orElseGet(() -> between(last));
        });
  }
}
