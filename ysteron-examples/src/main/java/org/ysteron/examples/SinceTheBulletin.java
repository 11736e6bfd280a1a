package org.ysteron.examples;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.concurrent.atomic.AtomicLong;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.Transaction;
import org.ysteron.TransactionTable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ReaderPosition;
import org.ysteron.option.Isolation;

/**
 * A bulletin that is computed from what changed since the one before. The bulletin and the move of
 * the reader's position are one commit, so that each change is counted exactly once, whatever fails
 * and whoever else computes it at the same time.
 */
public final class SinceTheBulletin {
  public static final String POSITION = "bulletin";
  public static final String BULLETINS = "tide.bulletins";
  private static final String READINGS = "tide.readings";
  private static final Duration LIMIT = Duration.ofDays(30);

  /** The columns of the bulletins. */
  public static final Schema SCHEMA =
      Schema.of(
          Field.of("computed_at", Types.INSTANT),
          Field.of("readings", Types.BIGINT),
          Field.of("new_readings", Types.BIGINT),
          Field.of("corrected", Types.BIGINT));

  private SinceTheBulletin() {}

  /** Takes an empty directory for the lake, or makes a temporary one. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    TideOffice office = new TideOffice(7, 12);
    try (Lake lake = Lake.create(directory)) {
      Table readings = lake.createTable(READINGS, TideOffice.readingsSchema());
      append(readings, office, 1);
      begin(lake, System.out);
      append(readings, office, 2);
      readings
          .update()
          .where(Condition.column("gauge_id").equalTo("ORR-03"))
          .set("quality", "suspect")
          .run("the float sticks");
      readings.compact().full().run(); // moves rows, and is no change
      next(lake, System.out);
      next(lake, System.out);
    }
  }

  private static void append(Table readings, TideOffice office, int day) {
    try (Append append = readings.append()) {
      office.readings(day, 1, 10, append::addRecord);
      append.commit("day " + day);
    }
  }

  /** The first bulletin counts all readings; its reader goes on from there. */
  public static void begin(LakeHandle lake, PrintStream out) {
    try (Transaction work = lake.begin(Isolation.SNAPSHOT)) {
      TransactionTable bulletins = work.createTable(BULLETINS, SCHEMA);
      long count = work.start().table(READINGS).scan().count();
      bulletins.add(work.start().commit().time(), count, count, 0L);
      work.setPosition(POSITION, LIMIT, READINGS);
      work.commit("the first bulletin");
      out.println("The first bulletin has " + count + " readings.");
    }
  }

  /** The next bulletin, if anything has changed. */
  public static void next(LakeHandle lake, PrintStream out) {
    String told =
        lake.inTransaction(
            Isolation.SNAPSHOT,
            work -> {
              ReaderPosition position = work.position(POSITION);
              ChangeCounts changes = position.changes(READINGS).countExactly();
              if (changes.total() == 0) {
                return "Nothing has changed since the last bulletin.";
              }
              long count = last(work) + changes.inserted() - changes.deleted();
              work.table(BULLETINS)
                  .add(work.start().commit().time(), count, changes.inserted(), changes.updated());
              position.move();
              work.noting("the next bulletin");
              return "The next bulletin has %d readings: %d are new, %d were corrected."
                  .formatted(count, changes.inserted(), changes.updated());
            });
    out.println(told);
  }

  /** The readings of the last bulletin. */
  private static long last(Transaction work) {
    AtomicLong last = new AtomicLong();
    work.table(BULLETINS)
        .scan()
        .columns("readings")
        .rows()
        .forEach(row -> last.accumulateAndGet(row.getLong("readings"), Math::max));
    return last.get();
  }
}
