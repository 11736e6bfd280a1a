package org.ysteron.internal.statement;

import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Consumer;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.read.BatchSource;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.read.SourcesAhead;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.write.TableWriter;

/**
 * Writes rows of files again, with their serials and births. Rows of this transaction have none to
 * keep, but for the serials of those that are new forms of older rows. For one thread.
 */
public final class RowMoves {
  private final TableChange table;
  private final VersionPage draft;
  private final Schema schema;
  private final TableWriter writer;

  /**
   * Starts with the table as it is now.
   *
   * @param writer a moving writer of the same table
   */
  public RowMoves(TableChange table, TableWriter writer) {
    this.table = table;
    this.draft = table.draft();
    this.schema = draft.schema();
    this.writer = writer;
  }

  /** Moves some rows of a file. */
  void move(FileEntry file, RoaringBitmap rows) {
    take(new Moved(file, rows, unread -> {}));
  }

  /**
   * Moves all rows of files that count, one file after the other, with some read ahead.
   *
   * @param unread is told of the file that could not be read, before that is thrown
   */
  public void moveAll(List<FileEntry> files, Consumer<FileEntry> unread) {
    Iterator<FileEntry> next = files.iterator();
    take(
        new SourcesAhead<>(
            table.workers(),
            batch -> batch,
            () -> next.hasNext() ? Optional.of(all(next.next(), unread)) : Optional.empty()));
  }

  private SourcesAhead.Part<Batch> all(FileEntry file, Consumer<FileEntry> unread) {
    try {
      return new SourcesAhead.Part<>(new Moved(file, table.live(file), unread), true);
    } catch (RuntimeException e) {
      unread.accept(file);
      throw e;
    }
  }

  private void take(Source<Batch> source) {
    int columns = schema.columns().size();
    source.each(
        batch ->
            writer.addMoved(
                Gather.columns(batch, columns),
                batch.vectors().get(columns),
                batch.vectors().get(columns + 1)));
  }

  /** The files to which the rows of others were moved. */
  public static List<StagedFile> moved(
      TableChange table, List<FileEntry> files, TableWriter writer) {
    Set<Long> numbers = new TreeSet<>();
    files.forEach(file -> numbers.addAll(table.origins(file.numbers().number())));
    StagedFile.Origin origin = new StagedFile.Origin(files.get(0).numbers().place(), numbers);
    return writer.finish().stream().map(staged -> staged.from(origin)).toList();
  }

  /** Rows of a file as a moving writer takes them: with the serials and births that they keep. */
  private final class Moved implements BatchSource {
    private final FileEntry file;
    private final boolean own;
    private final FileScan scan;
    private final Consumer<FileEntry> unread;
    private final int columns = schema.columns().size();

    Moved(FileEntry file, RoaringBitmap rows, Consumer<FileEntry> unread) {
      this.file = file;
      this.unread = unread;
      this.own = table.isOwn(file);
      Schema wanted = HiddenColumns.with(schema);
      boolean all = rows.getLongCardinality() == file.liveRows();
      this.scan =
          all
              ? FileScan.all(table.context(), draft, file, wanted)
              : FileScan.at(table.context(), draft, file, wanted, rows);
    }

    @Override
    public Optional<Batch> next() {
      try {
        return scan.next().map(this::told);
      } catch (RuntimeException e) {
        unread.accept(file);
        throw e;
      }
    }

    private Batch told(Batch read) {
      List<Vector> vectors = new ArrayList<>(read.vectors());
      vectors.set(columns, serials(read.vectors().get(columns), read.size()));
      vectors.set(columns + 1, births(read.vectors().get(columns + 1), read.size()));
      return new Batch(HiddenColumns.with(schema).struct(), read.size(), vectors);
    }

    private Vector serials(Vector told, int count) {
      long[] serials = new long[count];
      long[] nulls = null;
      for (int i = 0; i < count; i++) {
        long serial = file.serial(told, i, scan.position(i));
        if (table.isLasting(serial)) {
          serials[i] = serial;
        } else {
          nulls = nulls == null ? new long[(count + 63) >> 6] : nulls;
          nulls[i >> 6] |= 1L << i;
        }
      }
      return new Vector.OfLong(Types.BIGINT, count, serials, nulls);
    }

    private Vector births(Vector told, int count) {
      long[] births = new long[count];
      long[] nulls = null;
      for (int i = 0; i < count; i++) {
        if (own && told.isNull(i)) {
          nulls = nulls == null ? new long[(count + 63) >> 6] : nulls;
          nulls[i >> 6] |= 1L << i;
        } else {
          births[i] = file.birth(told, i);
        }
      }
      return new Vector.OfLong(Types.BIGINT, count, births, nulls);
    }

    @Override
    public void close() {
      scan.close();
    }
  }
}
