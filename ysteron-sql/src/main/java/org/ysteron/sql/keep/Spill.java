package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.write.TempFiles;

/**
 * Rows that do not fit in memory, in temporary files by parts; the files are gone when this is
 * closed. For one thread.
 */
public final class Spill implements AutoCloseable {
  public static final int PARTS = 16;

  private static final long GROUP_BYTES = 2 << 20;
  private static final int SLICE = 8192;

  private final Schema columns;
  private final Running running;
  private final TempFiles temporary;
  private final List<List<DataFile>> files = new ArrayList<>();
  private final List<Kept> waiting = new ArrayList<>();

  /** For rows of some columns, in so many parts. */
  public Spill(Schema columns, int parts, Running running) {
    this.columns = columns;
    this.running = running;
    this.temporary = new TempFiles(columns, GROUP_BYTES, running.workers());
    for (int p = 0; p < parts; p++) {
      files.add(new ArrayList<>());
      waiting.add(new Kept(columns, running.uncounted(), "rows that go to a temporary file"));
    }
  }

  /** Puts rows away; {@code parts}: the part of each. */
  public void add(SelectedBatch rows, int[] parts) {
    int[] at = Selected.rows(rows);
    int[] some = new int[rows.count()];
    for (int p = 0; p < files.size(); p++) {
      int count = 0;
      for (int i = 0; i < rows.count(); i++) {
        if (parts[i] == p) {
          some[count++] = at[i];
        }
      }
      if (count > 0) {
        waiting.get(p).add(new SelectedBatch(rows.batch(), some, count));
        if (waiting.get(p).bytes() > running.waitingBytes() / files.size()) {
          write(p);
        }
      }
    }
  }

  /** Writes what waits as files. */
  public void end() {
    for (int p = 0; p < files.size(); p++) {
      write(p);
    }
  }

  private void write(int part) {
    Kept kept = waiting.get(part);
    if (kept.rows() == 0) {
      return;
    }
    Batch all = kept.all();
    files.get(part).add(written(all));
    kept.release();
    waiting.set(part, new Kept(columns, running.uncounted(), "rows that go to a temporary file"));
  }

  private DataFile written(Batch all) {
    DataFile file =
        temporary.write(
            writer -> {
              for (int from = 0; from < all.size(); from += SLICE) {
                int to = Math.min(all.size(), from + SLICE);
                writer.write(Gather.rows(all, Selected.between(from, to)));
              }
            });
    running.spilled(file.size());
    return file;
  }

  /** Puts all rows of a batch away as a file of their own, in their order. */
  public void addRun(Batch all) {
    files.get(0).add(written(all));
  }

  /** The files of a part. */
  public List<DataFile> files(int part) {
    return files.get(part);
  }

  /** The rows of a part; each opening reads them again. */
  public Step part(int part) {
    return new Part(part);
  }

  /** The rows of a file. */
  public Source<SelectedBatch> rows(DataFile file) {
    DataFileReader reader = temporary.read(file);
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return reader.next().map(batch -> new SelectedBatch(batch, null, batch.size()));
      }

      @Override
      public void close() {
        reader.close();
      }
    };
  }

  @Override
  public void close() {
    waiting.forEach(Kept::release);
    temporary.close();
  }

  private final class Part implements Step {
    private final int part;

    Part(int part) {
      this.part = part;
    }

    @Override
    public Schema columns() {
      return columns;
    }

    @Override
    public List<Step> inputs() {
      return List.of();
    }

    @Override
    public Source<SelectedBatch> begin(Running of) {
      List<DataFile> all = files.get(part);
      return Chained.of(all.size(), file -> rows(all.get(file)));
    }
  }
}
