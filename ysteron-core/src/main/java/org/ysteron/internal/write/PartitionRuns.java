package org.ysteron.internal.write;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.DataFileWriter;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.PartitionBuffer.Parts;
import org.ysteron.internal.write.PartitionBuffer.Pending;

/**
 * Rows of more parts than memory has room for: they wait in temporary files, each sorted by part,
 * and come back part by part when all of them are merged, as an external sort does it (Knuth, The
 * Art of Computer Programming, vol. 3, 5.4). When there are many files they are merged into one.
 * For one thread.
 */
final class PartitionRuns implements AutoCloseable {
  private static final int MOST_RUNS = 10;
  private static final long GROUP_BYTES = 2 << 20;
  private static final int SLICE_ROWS = 8192;

  private final TempFiles files;
  private final List<Run> runs = new ArrayList<>();

  /** A file, and how many rows it has of which part, in its order. */
  private record Run(DataFile file, List<Parts> parts, List<Long> counts) {}

  PartitionRuns(Schema schema, Workers workers) {
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
                write(batch, writer);
              }
            });
    runs.add(new Run(file, parts, counts));
    if (runs.size() == MOST_RUNS) {
      mergeAll();
    }
  }

  private static void write(Batch batch, DataFileWriter writer) {
    for (int from = 0; from < batch.size(); from += SLICE_ROWS) {
      writer.write(slice(batch, from, Math.min(batch.size(), from + SLICE_ROWS)));
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

  /** Makes one file of all. */
  private void mergeAll() {
    List<Run> before = new ArrayList<>(runs);
    List<Parts> parts = new ArrayList<>();
    List<Long> counts = new ArrayList<>();
    DataFile file =
        files.write(
            writer ->
                forEach(
                    new Target() {
                      @Override
                      public void rows(Parts of, Batch batch) {
                        int last = parts.size() - 1;
                        if (last < 0 || !parts.get(last).equals(of)) {
                          parts.add(of);
                          counts.add(0L);
                          last++;
                        }
                        counts.set(last, counts.get(last) + batch.size());
                        writer.write(batch);
                      }

                      @Override
                      public void end(Parts of) {}
                    }));
    before.forEach(run -> files.delete(run.file));
    runs.clear();
    runs.add(new Run(file, parts, counts));
  }

  /** Takes rows part by part. */
  interface Target {
    void rows(Parts parts, Batch batch);

    /** There is no more of a part. */
    void end(Parts parts);
  }

  /** Hands over all rows, part after part in order. */
  void forEach(Target target) {
    List<Cursor> cursors = new ArrayList<>();
    try {
      TreeSet<Parts> all = new TreeSet<>();
      for (Run run : runs) {
        cursors.add(new Cursor(run));
        all.addAll(run.parts);
      }
      for (Parts parts : all) {
        cursors.forEach(cursor -> cursor.take(parts, target));
        target.end(parts);
      }
    } finally {
      cursors.forEach(Cursor::close);
    }
  }

  /** Reads a run from its beginning to its end. */
  private final class Cursor {
    private final Run run;
    private final DataFileReader reader;
    private int next;
    private Batch batch;
    private int at;

    Cursor(Run run) {
      this.run = run;
      this.reader = files.read(run.file);
    }

    void take(Parts parts, Target target) {
      if (next == run.parts.size() || !run.parts.get(next).equals(parts)) {
        return;
      }
      long left = run.counts.get(next++);
      while (left > 0) {
        if (batch == null || at == batch.size()) {
          Optional<Batch> more = reader.next();
          batch = more.orElseThrow(() -> new IllegalStateException("a run ends too early"));
          at = 0;
        }
        int count = (int) Math.min(left, batch.size() - at);
        target.rows(parts, slice(batch, at, at + count));
        at += count;
        left -= count;
      }
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
