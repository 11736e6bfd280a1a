package org.ysteron.internal.write;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.TreeSet;
import java.util.function.BiConsumer;
import java.util.function.Consumer;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.PartitionBuffer.Parts;
import org.ysteron.internal.write.PartitionBuffer.Pending;

/**
 * Rows of more parts than memory has room for: they wait in temporary files, each sorted by part
 * and, where rows have an order, by that, and come back so when all of them are merged, as an
 * external sort does it (Knuth, The Art of Computer Programming, vol. 3, 5.4). Ten files are merged
 * into one, ten of these again, so that a row is written once for each power of ten. For one
 * thread.
 */
final class PartitionRuns implements AutoCloseable {
  private static final int MOST_RUNS = 10;
  private static final long GROUP_BYTES = 2 << 20;
  private static final int SLICE_ROWS = 8192;

  private final Schema schema;
  private final RowOrder order;
  private final TempFiles files;
  private final List<Run> runs = new ArrayList<>();

  /** A file, how often its rows were merged, and how many it has of which part, in its order. */
  private record Run(DataFile file, int merges, List<Parts> parts, List<Long> counts) {}

  /** {@code order}: of the rows of a part; null for none. */
  PartitionRuns(Schema schema, RowOrder order, Workers workers) {
    this.schema = schema;
    this.order = order;
    this.files = new TempFiles(schema, GROUP_BYTES, workers);
  }

  boolean isEmpty() {
    return runs.isEmpty();
  }

  /** Puts rows away, given in the order of their parts. */
  void spill(List<Pending> rows) {
    if (rows.isEmpty()) {
      return;
    }
    List<Parts> parts = new ArrayList<>();
    List<Long> counts = new ArrayList<>();
    DataFile file =
        files.write(
            writer -> {
              for (Pending pending : rows) {
                Batch batch = pending.batch();
                parts.add(pending.parts());
                counts.add((long) batch.size());
                write(batch, order, writer::write);
              }
            });
    runs.add(new Run(file, 0, parts, counts));
    for (int merges = 0; mergesOf(merges).size() == MOST_RUNS; merges++) {
      merge(mergesOf(merges), merges + 1);
    }
  }

  private List<Run> mergesOf(int merges) {
    return runs.stream().filter(run -> run.merges == merges).toList();
  }

  /** Hands over the rows of a batch in order, some at a time. */
  static void write(Batch batch, RowOrder order, Consumer<Batch> target) {
    int[] rows = order == null ? null : order.of(batch);
    for (int from = 0; from < batch.size(); from += SLICE_ROWS) {
      int to = Math.min(batch.size(), from + SLICE_ROWS);
      target.accept(
          rows == null
              ? slice(batch, from, to)
              : Gather.rows(batch, Arrays.copyOfRange(rows, from, to)));
    }
  }

  private static Batch slice(Batch batch, int from, int to) {
    if (from == 0 && to == batch.size()) {
      return batch;
    }
    int[] rows = new int[to - from];
    Arrays.setAll(rows, i -> from + i);
    return Gather.rows(batch, rows);
  }

  /** Makes one file of some, which are one behind the other. */
  private void merge(List<Run> some, int merges) {
    List<Parts> parts = new ArrayList<>();
    List<Long> counts = new ArrayList<>();
    DataFile file =
        files.write(
            writer ->
                forEach(
                    some,
                    (of, batch) -> {
                      int last = parts.size() - 1;
                      if (last < 0 || !parts.get(last).equals(of)) {
                        parts.add(of);
                        counts.add(0L);
                        last++;
                      }
                      counts.set(last, counts.get(last) + batch.size());
                      writer.write(batch);
                    }));
    some.forEach(run -> files.delete(run.file));
    int first = runs.indexOf(some.get(0));
    runs.removeAll(some);
    runs.add(first, new Run(file, merges, parts, counts));
  }

  /** Hands over all rows, part after part in order. */
  void forEach(BiConsumer<Parts, Batch> target) {
    forEach(runs, target);
  }

  private void forEach(List<Run> some, BiConsumer<Parts, Batch> target) {
    List<Cursor> cursors = new ArrayList<>();
    try {
      TreeSet<Parts> all = new TreeSet<>();
      for (Run run : some) {
        cursors.add(new Cursor(run));
        all.addAll(run.parts);
      }
      for (Parts parts : all) {
        List<Cursor> have = cursors.stream().filter(cursor -> cursor.begin(parts)).toList();
        if (order == null) {
          have.forEach(cursor -> cursor.takeAll(batch -> target.accept(parts, batch)));
        } else {
          mergeInOrder(have, batch -> target.accept(parts, batch));
        }
      }
    } finally {
      cursors.forEach(Cursor::close);
    }
  }

  /**
   * Merges sorted rows. Of what each cursor has in memory, all rows up to the least of their last
   * ones can be handed over, sorted together: whatever is still to be read comes behind them. Rows
   * that are alike stay in the order of the cursors.
   */
  private void mergeInOrder(List<Cursor> cursors, Consumer<Batch> target) {
    List<Cursor> left = new ArrayList<>(cursors);
    left.removeIf(cursor -> !cursor.load());
    while (!left.isEmpty()) {
      Cursor least = left.get(0);
      for (Cursor cursor : left) {
        least = cursor.compareLast(least) < 0 ? cursor : least;
      }
      Pending together = new Pending(null, schema);
      int last = least.loaded() - 1;
      Vector[] limit = least.sorted;
      boolean before = true;
      for (Cursor cursor : left) {
        before &= cursor != least;
        int end = cursor == least ? cursor.loaded() : cursor.firstBehind(limit, last, before);
        together.add(cursor.take(end));
      }
      write(together.batch(), order, target);
      left.removeIf(cursor -> !cursor.load());
    }
  }

  /** Reads a run from its beginning to its end, part after part. */
  private final class Cursor {
    private final Run run;
    private final DataFileReader reader;
    private int next;
    private long left;
    private Batch batch;
    private Vector[] sorted;
    private int at;

    Cursor(Run run) {
      this.run = run;
      this.reader = files.read(run.file);
    }

    /** Whether it has rows of a part, which is the next one then. */
    boolean begin(Parts parts) {
      boolean has = next < run.parts.size() && run.parts.get(next).equals(parts);
      left = has ? run.counts.get(next++) : 0;
      return has;
    }

    /** Has rows in memory, unless no row of the part is left. */
    boolean load() {
      if (left > 0 && (batch == null || at == batch.size())) {
        batch = reader.next().orElseThrow(() -> new IllegalStateException("a run ends too early"));
        sorted = order == null ? null : order.vectors(batch);
        at = 0;
      }
      return left > 0;
    }

    /** Where the rows of the part end in memory. */
    int loaded() {
      return (int) Math.min(batch.size(), at + left);
    }

    Batch take(int end) {
      Batch taken = slice(batch, at, end);
      left -= end - at;
      at = end;
      return taken;
    }

    void takeAll(Consumer<Batch> target) {
      while (load()) {
        target.accept(take(loaded()));
      }
    }

    int compareLast(Cursor other) {
      return order.compare(sorted, loaded() - 1, other.sorted, other.loaded() - 1);
    }

    /** The first row behind another one, or not before it when rows that are alike come later. */
    int firstBehind(Vector[] others, int other, boolean alikeToo) {
      int low = at;
      int high = loaded();
      while (low < high) {
        int middle = (low + high) >>> 1;
        int compared = order.compare(sorted, middle, others, other);
        if (compared < 0 || (compared == 0 && alikeToo)) {
          low = middle + 1;
        } else {
          high = middle;
        }
      }
      return low;
    }

    void close() {
      reader.close();
    }
  }

  @Override
  public void close() {
    runs.clear();
    files.close();
  }
}
