package org.ysteron.internal.merge;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.rows.RowText;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.TempFiles;
import org.ysteron.progress.Progress;

/**
 * The rows of a merge's source, in the order in which they came, to be read as often as needed. The
 * first ones stay in memory; when those are many, the others go to temporary data files, a chunk
 * each. So a source may be larger than the heap, may be read from the table that it is merged into,
 * and a merge that met another commit can run again. For one thread.
 */
public final class RowSpool implements AutoCloseable {
  private static final long CHUNK_BYTES = 12L << 20;
  private static final int CHUNK_ROWS = 200_000;
  private static final long LOOK_EVERY = 512;
  private static final int CHUNKS_IN_MEMORY = 4;

  private final Schema schema;
  private Schema shown;
  private final List<Chunk> chunks = new ArrayList<>();
  private final TempFiles files;
  private final long chunkBytes;
  private final Watch.Step step;
  private VectorBuilder[] builders;
  private int held;
  private long rows;
  private boolean ended;

  /** Some consecutive rows: in memory, or in a file. */
  private record Chunk(long start, int rows, Optional<Batch> batch, Optional<DataFile> file) {}

  /** For rows of these columns. */
  public RowSpool(List<Field> columns, Workers workers, Watch watch) {
    // Ids of its own: a source may have columns of other tables.
    this.schema = Schema.of(columns.stream().map(RowSpool::loose).toList());
    this.shown = schema;
    this.chunkBytes = Math.min(CHUNK_BYTES, workers.means().memory() / (2 * CHUNKS_IN_MEMORY));
    this.files = new TempFiles(schema, chunkBytes, workers);
    this.step = watch.step("read source rows", Progress.Unit.ROWS);
    startChunk();
  }

  /** Whether null is allowed is for the table that a row goes to. */
  private static Field loose(Field column) {
    return Field.of(column.name(), column.type());
  }

  private void startChunk() {
    builders =
        schema.columns().stream()
            .map(column -> new VectorBuilder(column.type()))
            .toArray(VectorBuilder[]::new);
    held = 0;
  }

  /** The columns. */
  public List<Field> columns() {
    return shown.columns();
  }

  /** Gives the rows the types of a table whose columns have become wider since they were added. */
  void fit(Schema table) {
    List<Field> fitted = new ArrayList<>();
    for (Field column : schema.columns()) {
      int at = table.struct().indexOf(column.name());
      Type type = at < 0 ? column.type() : table.columns().get(at).type();
      boolean widens = !type.isNested() && Widening.isExact(column.type(), type);
      fitted.add(widens ? column.withType(type) : column);
    }
    shown = Schema.stored(fitted, List.of(), schema.lastId());
  }

  private Batch fitted(Batch batch) {
    if (shown.columns().equals(schema.columns())) {
      return batch;
    }
    List<Vector> vectors = new ArrayList<>();
    for (int c = 0; c < batch.vectors().size(); c++) {
      Type type = shown.columns().get(c).type();
      Vector vector = batch.vectors().get(c);
      boolean alike = type.isNested() || vector.type().equals(type);
      vectors.add(alike ? vector : Widening.vector(vector, type));
    }
    return new Batch(shown.struct(), batch.size(), vectors);
  }

  /** How many rows there are. */
  public long rows() {
    return rows;
  }

  /** Adds a row by all its values, each as its column's type accepts it. */
  public void add(Object[] accepted) {
    for (int c = 0; c < builders.length; c++) {
      builders[c].add(accepted[c]);
    }
    held++;
    rows++;
    if (rows % LOOK_EVERY == 0) {
      step.add(LOOK_EVERY);
    }
    if (held == CHUNK_ROWS || (held % LOOK_EVERY == 0 && bytes() >= chunkBytes)) {
      endChunk();
    }
    if (rows == Integer.MAX_VALUE) {
      throw new InvalidInputException(
          "A merge source can have at most %d rows. Nothing was changed; merge in parts."
              .formatted(Integer.MAX_VALUE));
    }
  }

  private long bytes() {
    long bytes = 0;
    for (VectorBuilder builder : builders) {
      bytes += builder.heldBytes();
    }
    return bytes;
  }

  private void endChunk() {
    if (held == 0) {
      return;
    }
    List<Vector> vectors = Stream.of(builders).map(VectorBuilder::build).toList();
    Batch batch = new Batch(schema.struct(), held, vectors);
    long start = rows - held;
    boolean keep = chunks.size() < CHUNKS_IN_MEMORY;
    chunks.add(
        keep
            ? new Chunk(start, held, Optional.of(batch), Optional.empty())
            : new Chunk(start, held, Optional.empty(), Optional.of(spill(batch))));
    startChunk();
  }

  private DataFile spill(Batch batch) {
    return files.write(writer -> writer.write(batch));
  }

  /** Says that all rows were added. */
  public RowSpool end() {
    if (!ended) {
      endChunk();
      ended = true;
    }
    return this;
  }

  /** Takes rows by column. */
  @FunctionalInterface
  interface Visitor {
    /**
     * Some rows.
     *
     * @param first the number of the first one, from 0
     */
    void rows(long first, Batch batch);
  }

  /** Visits all rows in their order. */
  void forEach(Visitor visitor) {
    for (Chunk chunk : chunks) {
      visit(chunk, visitor);
    }
  }

  private void visit(Chunk chunk, Visitor visitor) {
    if (chunk.batch.isPresent()) {
      visitor.rows(chunk.start, fitted(chunk.batch.get()));
      return;
    }
    try (DataFileReader reader = files.read(chunk.file.orElseThrow())) {
      Optional<Batch> batch = reader.next();
      while (batch.isPresent()) {
        visitor.rows(chunk.start + reader.position(), fitted(batch.get()));
        batch = reader.next();
      }
    }
  }

  /** One row, for messages. */
  String describe(long row, Schema table) {
    StringBuilder text = new StringBuilder();
    for (Chunk chunk : chunks) {
      if (row >= chunk.start && row < chunk.start + chunk.rows) {
        visit(
            chunk,
            (first, batch) -> {
              if (row >= first && row < first + batch.size()) {
                text.append(RowText.of(table, batch.row((int) (row - first))));
              }
            });
      }
    }
    return text.toString();
  }

  @Override
  public void close() {
    chunks.clear();
    files.close();
  }
}
