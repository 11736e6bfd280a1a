package org.ysteron.internal.table;

/** Makes version pages whose counters are not true, for tests of checks. */
public final class Forger {
  private Forger() {}

  /** A version that is said to have so many rows more. */
  public static VersionPage rows(VersionPage page, long more) {
    HistoryRecord record = page.record();
    return page.withFiles(
        page.files(),
        record.with(
            record.counts(),
            record.totals().plus(0, more, 0),
            record.lives(),
            record.nextSerial(),
            record.marks().onlyMoved()));
  }

  /** A version of which so many rows more are said to have been born, and gone. */
  public static VersionPage lives(VersionPage page, long born, long gone) {
    HistoryRecord record = page.record();
    HistoryRecord.Lives lives =
        new HistoryRecord.Lives(record.lives().born() + born, record.lives().gone() + gone);
    return page.withFiles(
        page.files(),
        record.with(
            record.counts(),
            record.totals(),
            lives,
            record.nextSerial(),
            record.marks().onlyMoved()));
  }
}
