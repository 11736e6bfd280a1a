package org.ysteron.internal.merge;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.keys.KeyIndex;
import org.ysteron.internal.keys.KeyScan;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.statement.Touching;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Read;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.internal.work.Ahead;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;
import org.ysteron.report.ChangeReport;

/**
 * Merges the rows of a source into a table.
 *
 * <p>The keys of the source are indexed by hash, then the table is gone through once: files, row
 * groups and pages that cannot hold one of the keys are skipped by ranges and bloom filters, of the
 * others the key columns are read, and no more. Then the source is gone through in its order, a
 * chunk at a time, and each row is done with the rows it matched; the other columns of those are
 * read only when a clause needs them. A source of more keys than one index is meant for is done in
 * parts by hash, each going through the table once. For one thread.
 */
public final class RowMerge {
  private final TableChange table;
  private final MergeSpec spec;
  private final RowSpool source;
  private final VersionPage draft;
  private final Schema schema;
  private final List<Field> on = new ArrayList<>();
  private final MergeClauses clauses;
  private final List<FileEntry> files = new ArrayList<>();
  private final Map<Long, Integer> numbers = new HashMap<>();
  private final Map<Integer, RoaringBitmap> gone = new LinkedHashMap<>();
  private final List<Read> reads = new ArrayList<>();
  private final MergeWriter out;
  private final boolean wholesale;
  private long matched;
  private boolean someKept;

  /**
   * A merge.
   *
   * @param now when it began
   */
  public RowMerge(TableChange table, MergeSpec spec, RowSpool source, Instant now) {
    this.table = table;
    this.spec = spec;
    this.source = source;
    this.draft = table.draft();
    this.schema = draft.schema();
    source.fit(schema);
    for (String name : spec.on()) {
      on.add(schema.resolve(Schema.path(List.of(name))).get(0));
    }
    this.clauses = new MergeClauses(spec, schema, source.columns());
    this.out = new MergeWriter(table, clauses.mayBringKeys(), now);
    this.wholesale = clauses.takeEverything() && !clauses.mayChangeKeys();
  }

  /** Runs it in the transaction. */
  public ChangeReport run() {
    int parts = (int) (source.rows() / KeyIndex.most()) + 1;
    for (int part = 0; part < parts; part++) {
      run(new SourceKeys(source, schema, on, spec.duplicates(), part, parts), parts == 1);
    }
    Touching touching = new Touching(table, spec.style());
    gone.forEach((file, rows) -> touching.touch(files.get(file), rows));
    List<StagedFile> written = out.finish();
    ChangeReport report =
        touching.report(
            matched, out.updated(), touching.rows() - out.updated(), out.inserted(), written);
    if (report.isNothing()) {
      reads.forEach(table::readOnly);
      return report;
    }
    List<StagedFile> all = new ArrayList<>(touching.moved());
    all.addAll(written);
    Effect effect = new Effect(spec.operation(), all, touching.touches(), reads);
    table.take(effect, out.written());
    return report;
  }

  /** The files that can hold a key; or all. */
  private TreeCursor<FileEntry, FileSummary> candidates(Filter filter, boolean all) {
    PageStore pages = table.context().pages();
    return all ? draft.fileTree(pages).cursor() : draft.files(filter, pages);
  }

  private synchronized int numberOf(FileEntry file) {
    return numbers.computeIfAbsent(
        file.numbers().number(),
        n -> {
          files.add(file);
          return files.size() - 1;
        });
  }

  private synchronized FileEntry file(int number) {
    return files.get(number);
  }

  private void run(SourceKeys keys, boolean exact) {
    Filter filter = draft.filter(keys.bounds(), table.context().pages());
    Matches matches = new Matches();
    boolean everyRow = clauses.has(MergeSpec.Kind.NOT_IN_SOURCE);
    TreeCursor<FileEntry, FileSummary> cursor = candidates(filter, everyRow);
    Watch watch = table.context().watch();
    Watch.Step search = watch.step("search files for keys", Progress.Unit.FILES);
    try (Ahead<Found> ahead = new Ahead<>(table.workers(), found -> take(found, matches))) {
      while (cursor.next()) {
        int number = numberOf(cursor.value());
        ahead.add(() -> look(number, keys, filter, everyRow));
        search.add(1);
      }
      ahead.finish();
    }
    matches.sort();
    matched += matches.size();
    Watch.Step merge = watch.step("merge rows", Progress.Unit.ROWS, source.rows());
    source.forEach(
        (first, batch) -> {
          chunk(keys, matches, first, batch);
          merge.add(batch.size());
        });
    remember(keys, filter, exact, everyRow);
  }

  /** What was found in a file. */
  private record Found(int file, Matches matches, RoaringBitmap unmatched) {}

  private Found look(int number, SourceKeys keys, Filter filter, boolean everyRow) {
    Found found = new Found(number, new Matches(), new RoaringBitmap());
    KeyScan.Visitor visitor =
        (row, hash, position, serial) -> {
          if (row >= 0) {
            found.matches.add(row, number, position, serial);
          } else if (keys.isInPart(hash)) {
            found.unmatched.add(position);
          }
        };
    KeyScan scan = new KeyScan(table.context(), draft, filter);
    if (everyRow) {
      scan.scanAll(file(number), keys.index(), visitor);
    } else {
      scan.scan(file(number), keys.index(), visitor);
    }
    return found;
  }

  private void take(Found found, Matches matches) {
    matches.addAll(found.matches);
    notInSource(found.file, found.unmatched);
  }

  private void remember(SourceKeys keys, Filter filter, boolean exact, boolean everyRow) {
    Optional<KeyIndex> index = exact ? Optional.of(keys.index()) : Optional.empty();
    reads.add(new Read(filter, index, Read.Kind.KEYS));
    if (everyRow || someKept) {
      Filter all = everyRow ? KeyScan.everything(draft) : filter;
      reads.add(new Read(all, Optional.empty(), Read.Kind.ROWS));
    }
  }

  /** Some rows of the source, in their order. */
  private void chunk(SourceKeys keys, Matches matches, long first, Batch batch) {
    if (wholesale) {
      takeEverything(keys, matches, first, batch);
      return;
    }
    int at = matches.from(first);
    int end = matches.from(first + batch.size());
    Map<Long, Row> targets = clauses.needTarget() ? fetch(matches, at, end) : Map.of();
    var key = keys.key(batch);
    for (int i = 0; i < batch.size(); i++) {
      long number = first + i;
      if (!keys.counts(key, i, number)) {
        continue;
      }
      Row row = batch.row(i);
      if (at == end || matches.row(at) != number) {
        clauses.insert(row).ifPresent(out::insert);
        continue;
      }
      while (at < end && matches.row(at) == number) {
        int file = matches.file(at);
        int position = matches.position(at);
        Row target = targets.get(place(file, position));
        MergeClauses.Outcome outcome = clauses.matched(target, row);
        apply(outcome, file, position, matches.serial(at));
        at++;
      }
    }
  }

  /** An upsert of all columns, without looking at single rows of the source. */
  private void takeEverything(SourceKeys keys, Matches matches, long first, Batch batch) {
    int at = matches.from(first);
    int end = matches.from(first + batch.size());
    Vector[] key = keys.key(batch);
    int[] rows = new int[batch.size() + end - at];
    VectorBuilder serials = new VectorBuilder(Types.BIGINT);
    int count = 0;
    long own = 0;
    for (int i = 0; i < batch.size(); i++) {
      if (!keys.counts(key, i, first + i)) {
        continue;
      }
      boolean found = false;
      while (at < end && matches.row(at) == first + i) {
        gone.computeIfAbsent(matches.file(at), f -> new RoaringBitmap()).add(matches.position(at));
        Long serial = table.lasting(matches.serial(at++));
        own += serial == null ? 1 : 0;
        serials.add(serial);
        rows[count++] = i;
        found = true;
      }
      if (!found) {
        serials.addNull();
        rows[count++] = i;
      }
    }
    if (count > 0) {
      Batch taken = Gather.rows(clauses.inOrder(batch), Arrays.copyOf(rows, count));
      out.write(taken, serials.build());
      out.countOwn(own);
    }
  }

  private void apply(MergeClauses.Outcome outcome, int file, int position, long serial) {
    if (!outcome.changes()) {
      someKept = true;
      return;
    }
    gone.computeIfAbsent(file, f -> new RoaringBitmap()).add(position);
    outcome.values().ifPresent(values -> out.update(values, table.lasting(serial)));
  }

  private static long place(int file, int position) {
    return (long) file << 32 | position;
  }

  /** The rows of the table that match some of the source, all columns. */
  private Map<Long, Row> fetch(Matches matches, int from, int to) {
    Map<Long, Row> rows = new HashMap<>();
    RoaringBitmap[] positions = matches.positions(from, to, files.size());
    for (int f = 0; f < positions.length; f++) {
      if (positions[f] != null) {
        fetch(
            f, positions[f], (file, position, row, serial) -> rows.put(place(file, position), row));
      }
    }
    return rows;
  }

  private interface RowVisitor {
    void row(int file, int position, Row row, long serial);
  }

  private void fetch(int file, RoaringBitmap positions, RowVisitor visitor) {
    FileEntry entry = files.get(file);
    Schema wanted = HiddenColumns.withSerials(schema);
    FileScan.at(table.context(), draft, entry, wanted, positions)
        .located(entry)
        .each(
            read -> {
              Batch rows = read.rows();
              for (int i = 0; i < rows.size(); i++) {
                visitor.row(file, read.position(i), rows.row(i), read.serial(i));
              }
            });
  }

  private void notInSource(int file, RoaringBitmap positions) {
    if (positions.isEmpty()) {
      return;
    }
    if (clauses.deletesAllNotInSource()) {
      gone.computeIfAbsent(file, f -> new RoaringBitmap()).or(positions);
      return;
    }
    fetch(
        file,
        positions,
        (f, position, row, serial) -> apply(clauses.notInSource(row), f, position, serial));
  }
}
