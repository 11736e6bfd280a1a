package org.ysteron.internal.upkeep;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.option.Retention;

/**
 * Which versions of a table stay when some rules are carried out: the newest, those that a hold
 * names, so many of the newest as the rules say, and those that the rules keep for the time that
 * they served, from their own commit to the next version's. A dropped table is none that was ever
 * current since; when no rule that looks at times and no hold keeps any version of it, the table as
 * a whole goes. Immutable.
 */
final class KeptVersions {
  private final List<HistoryRecord> records;
  private final boolean[] isKept;
  private final Map<Long, List<String>> heldBy = new TreeMap<>();
  private final boolean isAnyKept;

  /**
   * Decides.
   *
   * @param records all versions that are there, in their order
   * @param times when versions were superseded, and the time now
   * @param holds all holds of the lake
   * @param most so many go at most, the oldest; others stay for now
   */
  KeptVersions(
      UUID table,
      boolean isDropped,
      List<HistoryRecord> records,
      Retention rules,
      KnownTimes times,
      List<HoldRecord> holds,
      int most) {
    Instant now = times.now();
    this.records = records;
    this.isKept = new boolean[records.size()];
    Map<Long, List<String>> names = new HashMap<>();
    for (HoldRecord hold : holds) {
      Long version = hold.versions().get(table);
      if (version != null && hold.lastsAt(now)) {
        names.computeIfAbsent(version, v -> new ArrayList<>()).add(hold.label());
      }
    }
    boolean any = false;
    int newest = records.size() - 1;
    HistoryRecord next = records.get(0);
    for (int i = 0; i <= newest; i++) {
      HistoryRecord record = next;
      next = i < newest ? records.get(i + 1) : null;
      Instant from = record.commit().time();
      boolean served =
          rules.keepsEverything()
              || (i < newest
                  ? rules.keeps(from, superseded(next, rules, times), now)
                  : isDropped && rules.keeps(from, dropped(times, record), now));
      boolean counted = i > newest - rules.newest().orElse(0);
      List<String> held = names.get(record.version());
      any |= served || held != null;
      isKept[i] = served || counted || held != null || i == newest;
      if (held != null && !served && !counted && i < newest) {
        heldBy.put(record.version(), held);
      }
    }
    this.isAnyKept = any || !isDropped || !rules.looksAtTimes();
    keepBehind(most);
  }

  private void keepBehind(int most) {
    int gone = 0;
    for (int i = 0; i < isKept.length; i++) {
      gone += isKept[i] ? 0 : 1;
      isKept[i] |= gone > most;
    }
  }

  private static Instant superseded(HistoryRecord by, Retention rules, KnownTimes times) {
    return rules.looksAtTimes() ? times.notAfter(by.commit()) : by.commit().time();
  }

  private static Instant dropped(KnownTimes times, HistoryRecord last) {
    return times.notAfter(last.commit()).plusNanos(1000);
  }

  /** Whether the table as a whole goes. */
  boolean isNoneKept() {
    return !isAnyKept;
  }

  /** Versions one after the other that go: the first and the last place among the records. */
  record Run(int first, int last) {}

  /** All that go, the oldest first; the newest version is never among them. */
  List<Run> runs() {
    List<Run> runs = new ArrayList<>();
    int i = 0;
    while (i < isKept.length) {
      int end = i;
      while (end < isKept.length && !isKept[end]) {
        end++;
      }
      if (end > i) {
        runs.add(new Run(i, end - 1));
      }
      i = end + 1;
    }
    return runs;
  }

  /** Those that stay. */
  Stream<HistoryRecord> kept() {
    return IntStream.range(0, isKept.length).filter(i -> isKept[i]).mapToObj(records::get);
  }

  /** How many stay. */
  int count() {
    return (int) IntStream.range(0, isKept.length).filter(i -> isKept[i]).count();
  }

  /** Versions that stay only because holds of these names keep them. */
  Map<Long, List<String>> heldBy() {
    return heldBy;
  }
}
