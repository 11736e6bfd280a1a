package org.ysteron.internal.statement;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.IntStream;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.Located;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.ChangeStyle;
import org.ysteron.progress.Progress;
import org.ysteron.report.ChangeReport;

/**
 * Changes rows that somebody else has found: some go, some get new values and keep their serials,
 * some are new. Of rows that get new values the other columns are read at the end, file after file,
 * so that only places and new values wait. For one thread, but for {@link #located}.
 */
public final class LocatedChange {
  private static final int TOLD_COLUMNS = 3;

  private final TableChange table;
  private final String operation;
  private final ChangeStyle style;
  private final boolean newKeys;
  private final Instant now;
  private final Located located;
  private final NavigableMap<Long, RoaringBitmap> deleted = new TreeMap<>();
  private final NavigableMap<Long, RoaringBitmap> updated = new TreeMap<>();
  private TableWriter writer;
  private long inserted;

  /**
   * A change.
   *
   * @param operation its word in the history
   * @param newKeys whether there may be new rows, or rows that get other keys
   * @param now when it began
   */
  public LocatedChange(
      TableChange table, String operation, ChangeStyle style, boolean newKeys, Instant now) {
    this.table = table;
    this.operation = operation;
    this.style = style;
    this.newKeys = newKeys;
    this.now = now;
    this.located = new Located(table.draft().schema());
  }

  /** Tells scans of the table where its rows are. */
  public Located located() {
    return located;
  }

  /** A row for messages: its key, or else its first columns. */
  public String told(long file, long position) {
    Schema schema = table.draft().schema();
    List<String> named =
        schema.key().isEmpty()
            ? schema.columns().stream().limit(TOLD_COLUMNS).map(Field::name).toList()
            : schema.key();
    Schema told = schema.select(named.stream().map(name -> Schema.path(List.of(name))).toList());
    RoaringBitmap place = RoaringBitmap.bitmapOf(Math.toIntExact(position));
    FileEntry entry = located.entry(file);
    List<String> values = new ArrayList<>();
    FileScan.at(table.context(), table.draft(), entry, told, place)
        .located(entry)
        .each(
            rows -> {
              Row row = rows.rows().row(0);
              named.forEach(name -> values.add(name + " " + Values.show(row.get(name))));
            });
    return String.join(", ", values);
  }

  /** A row goes; false when it went or got new values before. */
  public boolean delete(long file, long position) {
    return !isIn(updated, file, position)
        && of(deleted, file).checkedAdd(Math.toIntExact(position));
  }

  /** A row gets new values, which come later; false when it went or got some before. */
  public boolean update(long file, long position) {
    return !isIn(deleted, file, position)
        && of(updated, file).checkedAdd(Math.toIntExact(position));
  }

  private static RoaringBitmap of(Map<Long, RoaringBitmap> rows, long file) {
    return rows.computeIfAbsent(file, number -> new RoaringBitmap());
  }

  private static boolean isIn(Map<Long, RoaringBitmap> rows, long file, long position) {
    RoaringBitmap known = rows.get(file);
    return known != null && known.contains(Math.toIntExact(position));
  }

  /** Adds rows, in the columns of the table. */
  public void insert(Batch rows) {
    writer().addMoved(rows, serials(rows.size()));
    inserted += rows.size();
  }

  private static Vector serials(int none) {
    VectorBuilder serials = new VectorBuilder(Types.BIGINT);
    for (int i = 0; i < none; i++) {
      serials.addNull();
    }
    return serials.build();
  }

  private TableWriter writer() {
    writer = writer == null ? table.updatingWriter(newKeys, now) : writer;
    return writer;
  }

  /**
   * Takes it all.
   *
   * @param forms the new values of the rows that get some, in the order of file and position, which
   *     are the first two columns; the others are named as the columns of the table that are set
   */
  public ChangeReport finish(Source<Batch> forms) {
    try (forms) {
      write(forms);
    }
    Touching touching = new Touching(table, style);
    NavigableMap<Long, RoaringBitmap> gone = new TreeMap<>(updated);
    deleted.forEach(
        (file, rows) -> gone.merge(file, rows, (one, other) -> RoaringBitmap.or(one, other)));
    gone.forEach((file, rows) -> touching.touch(located.entry(file), rows));
    List<StagedFile> written = writer == null ? List.of() : writer.finish();
    long changed = rows(updated);
    ChangeReport report =
        touching.report(touching.rows(), changed, touching.rows() - changed, inserted, written);
    if (!report.isNothing()) {
      List<StagedFile> all = new ArrayList<>(touching.moved());
      all.addAll(written);
      Effect effect = new Effect(operation, all, touching.touches(), List.of());
      table.take(effect, Optional.ofNullable(writer));
    }
    return report;
  }

  private static long rows(Map<Long, RoaringBitmap> places) {
    return places.values().stream().mapToLong(RoaringBitmap::getLongCardinality).sum();
  }

  /** Writes the new forms of rows. */
  private void write(Source<Batch> values) {
    Optional<Batch> first = values.next(); // rows may be found only now
    if (first.isEmpty()) {
      return;
    }
    Schema schema = table.draft().schema();
    List<FilesScan.Part> parts = new ArrayList<>();
    updated.forEach(
        (file, rows) -> {
          FileEntry entry = located.entry(file);
          parts.add(FilesScan.Part.of(table.draft(), entry, rows));
        });
    Forms forms = new Forms(first.get(), values);
    Watch.Step step =
        table.context().watch().step("update rows", Progress.Unit.ROWS, rows(updated));
    Schema others = forms.others(schema);
    FilesScan.told(table.context(), parts, others)
        .each(
            rows -> {
              write(rows, forms, schema, others);
              step.add(rows.size());
            });
  }

  private void write(FileRows rows, Forms forms, Schema schema, Schema others) {
    Batch read = rows.rows();
    for (int done = 0; done < rows.size(); ) {
      Batch form = forms.next(rows, done);
      Batch before = slice(read, done, form.size());
      List<Vector> vectors = new ArrayList<>();
      for (Field column : schema.columns()) {
        int set = forms.at(column.name());
        vectors.add(
            set >= 0
                ? form.vectors().get(set)
                : before.vectors().get(others.indexOf(column.name())));
      }
      VectorBuilder serials = new VectorBuilder(Types.BIGINT);
      for (int i = 0; i < form.size(); i++) {
        serials.add(table.lasting(rows.serial(done + i)));
      }
      writer().addMoved(new Batch(schema.struct(), form.size(), vectors), serials.build());
      done += form.size();
    }
  }

  private static Batch slice(Batch batch, int from, int count) {
    return count == batch.size()
        ? batch
        : Gather.rows(batch, IntStream.range(from, from + count).toArray());
  }

  /** New values, row by row in the order of their places. */
  private static final class Forms {
    private static final int PLACE_COLUMNS = 2;

    private final Source<Batch> source;
    private Batch batch;
    private int taken;

    Forms(Batch first, Source<Batch> source) {
      this.batch = first;
      this.source = source;
    }

    /** Which of its columns sets a column of the table; -1 for none. */
    int at(String column) {
      int at = batch.columns().indexOf(column);
      return at < PLACE_COLUMNS ? -1 : at;
    }

    /** The columns that are as they were; one at least, which costs least. */
    Schema others(Schema schema) {
      List<Field> kept = schema.columns().stream().filter(column -> at(column.name()) < 0).toList();
      return Schema.stored(
          kept.isEmpty() ? schema.columns().subList(0, 1) : kept, List.of(), schema.lastId());
    }

    /** The new values of the next rows of a file that were read. */
    Batch next(FileRows rows, int from) {
      if (taken == batch.size()) {
        batch = source.next().orElseThrow();
        taken = 0;
      }
      int count = Math.min(rows.size() - from, batch.size() - taken);
      Batch next = slice(batch, taken, count);
      long file = rows.file().numbers().number();
      for (int i = 0; i < count; i++) {
        if (number(next, 0, i) != file || number(next, 1, i) != rows.position(from + i)) {
          throw new InvalidInputException(
              "New values of rows come in another order than the rows. Nothing was changed.");
        }
      }
      taken += count;
      return next;
    }

    private static long number(Batch of, int column, int row) {
      return ((Vector.OfLong) of.vectors().get(column)).values()[row];
    }
  }
}
