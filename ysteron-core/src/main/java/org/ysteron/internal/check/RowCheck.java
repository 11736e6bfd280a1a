package org.ysteron.internal.check;

import java.util.ArrayList;
import java.util.List;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.keys.DuplicateKeys;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Ahead;
import org.ysteron.internal.work.Watch;
import org.ysteron.option.Check;
import org.ysteron.option.KeyTesting;
import org.ysteron.progress.Progress;
import org.ysteron.proof.Finding;
import org.ysteron.report.DuplicateRow;

/**
 * Reads the rows of the newest version of a table: as many as are told, within the ranges that are
 * told, each serial once, births within bounds, no null where none is allowed, no check false, no
 * key twice where writes see to it. Ranges of fields inside others are not compared. For one
 * thread, beside which others read files.
 */
final class RowCheck {
  /** Adding a range to a bitmap of 64 bits takes as long as adding some thousand numbers. */
  private static final int WORTH_A_RANGE = 6_000;

  private static final int MOST_KEYS = 10;

  private final LakeCore core;
  private final Findings findings;
  private final VersionPage table;
  private final List<Filter> broken = new ArrayList<>();
  private final Roaring64Bitmap serials = new Roaring64Bitmap();
  private Watch.Step step;
  private long rows;
  private boolean isWhole = true;

  RowCheck(LakeCore core, Findings findings, VersionPage table) {
    this.core = core;
    this.findings = findings;
    this.table = table;
    for (Check check : table.form().checks()) {
      broken.add(Filter.bind(check.condition().not(), table.schema()));
    }
  }

  long rows() {
    return rows;
  }

  void run() {
    step = core.watch().step("check rows", Progress.Unit.ROWS, table.record().totals().rows());
    try (Ahead<OfFile> ahead = new Ahead<>(core.workers(), this::take)) {
      var files = table.fileTree(core.pages()).cursor();
      while (files.next()) {
        FileEntry file = files.value();
        ahead.add(() -> new OfFile(file).read());
      }
      ahead.finish();
      if (KeyRule.of(table) == KeyTesting.EXACT) {
        keys();
      }
    } catch (DamagedException | ExpiredException e) {
      return; // told where that is
    }
    if (isWhole && rows != table.record().totals().rows()) {
      wrong(
          "Its record says %d rows, but it has %d."
              .formatted(table.record().totals().rows(), rows));
    }
  }

  private void keys() {
    List<DuplicateRow> sharers = DuplicateKeys.of(core.reading(), table, MOST_KEYS);
    if (!sharers.isEmpty()) {
      wrong(
          "Rows share their primary key: %s%s."
              .formatted(sharers.get(0).key(), sharers.size() > 2 ? " and others" : ""));
    }
  }

  private void wrong(String what) {
    findings.add(
        Finding.Kind.ROWS,
        "table %s, version %d".formatted(table.name(), table.version()),
        what,
        new Findings.OfVersions(table.id(), table.version(), table.version()));
  }

  private void take(OfFile file) {
    rows += file.rows;
    step.add(file.rows);
    isWhole &= file.isRead;
    long before = serials.getLongCardinality();
    serials.or(file.serials);
    if (file.isRead && serials.getLongCardinality() != before + file.rows) {
      file.wrong("Some of its rows have serials that other rows have as well.");
    }
  }

  /** The rows of a file. */
  private final class OfFile {
    private final FileEntry file;
    private final Roaring64Bitmap serials = new Roaring64Bitmap();
    private final List<SeenRange> ranges = new ArrayList<>();
    private final long[] fails = new long[broken.size()];
    private long rows;
    private boolean isRead;

    OfFile(FileEntry file) {
      this.file = file;
      table.schema().columns().forEach(column -> ranges.add(new SeenRange()));
    }

    OfFile read() {
      boolean tells = file.tellsSerials() || file.tellsBirths();
      Schema columns = tells ? HiddenColumns.with(table.schema()) : table.schema();
      try {
        FileScan.all(core.reading(), table, file, columns).located(file).each(this::add);
        isRead = true;
      } catch (DamagedException | ExpiredException e) {
        findings.unreadable(
            Finding.Kind.FILE,
            file.objectName(table.id()),
            e,
            new Findings.OfFile(table.id(), file));
        return this;
      }
      judge();
      return this;
    }

    private void add(FileRows read) {
      Batch batch = read.rows();
      if (read.toldBirths() == null) {
        addOwn(read);
      } else {
        addTold(read);
      }
      rows += batch.size();
      for (int column = 0; column < batch.vectors().size(); column++) {
        if (isPlain(batch.vectors().get(column))) {
          ranges.get(column).add(batch.vectors().get(column));
        }
      }
      for (int i = 0; i < broken.size(); i++) {
        for (long word : broken.get(i).select(batch)) {
          fails[i] += Long.bitCount(word);
        }
      }
    }

    /** Serials that follow from where the rows are. */
    private void addOwn(FileRows read) {
      int size = read.size();
      long first = read.serial(0);
      if (size >= WORTH_A_RANGE && read.position(size - 1) - read.position(0) == size - 1) {
        serials.addRange(first, first + size);
        return;
      }
      for (int row = 0; row < size; row++) {
        serials.addLong(read.serial(row));
      }
    }

    private void addTold(FileRows read) {
      FileEntry.Births births = file.numbers().births();
      long least = Long.MAX_VALUE;
      long greatest = Long.MIN_VALUE;
      for (int row = 0; row < read.size(); row++) {
        serials.addLong(read.serial(row));
        long born = read.birth(row);
        least = Math.min(least, born);
        greatest = Math.max(greatest, born);
      }
      if (read.size() > 0 && (least < births.least() || greatest > births.greatest())) {
        wrong(
            "Its rows were inserted by commits %d to %d, but its entry says %d to %d."
                .formatted(least, greatest, births.least(), births.greatest()));
      }
    }

    private boolean isPlain(Vector vector) {
      return !(vector instanceof Vector.OfList
          || vector instanceof Vector.OfMap
          || vector instanceof Vector.OfStruct);
    }

    private void judge() {
      if (rows != file.liveRows()) {
        wrong("It has %d live rows, but its entry says %d.".formatted(rows, file.liveRows()));
      }
      for (int i = 0; i < table.schema().columns().size(); i++) {
        Field column = table.schema().columns().get(i);
        ColumnRange told = file.range(column.id());
        if (!ranges.get(i).isWithin(told.widen(column.type()))) {
          wrong(
              "Values of column %s are outside the recorded range %s."
                  .formatted(column.name(), told));
        }
        if (column.required() && ranges.get(i).hasNulls()) {
          wrong(
              "Column %s contains nulls, but it is NOT NULL or its entry says that it has none."
                  .formatted(column.name()));
        }
      }
      for (int i = 0; i < fails.length; i++) {
        if (fails[i] > 0) {
          wrong(
              "%d rows break the check %s."
                  .formatted(fails[i], table.form().checks().get(i).name()));
        }
      }
    }

    private void wrong(String what) {
      findings.add(
          Finding.Kind.ROWS,
          file.objectName(table.id()),
          what,
          new Findings.OfFile(table.id(), file));
    }
  }
}
