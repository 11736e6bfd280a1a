package org.ysteron.sql.keep;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;

/** Rows that are kept in memory, in one vector a column. For one thread. */
public final class Kept {
  private final Schema columns;
  private final Running running;
  private final String what;
  private final List<VectorBuilder> builders = new ArrayList<>();
  private long rows;
  private long bytes;

  /** {@code what}: what the rows are kept for, for people. */
  public Kept(Schema columns, Running running, String what) {
    this.columns = columns;
    this.running = running.keeping(what);
    this.what = what;
    for (Field field : columns.columns()) {
      builders.add(new VectorBuilder(field.type()));
    }
  }

  public void add(SelectedBatch batch) {
    long more = 0;
    int[] positions = Selected.rows(batch);
    for (int c = 0; c < builders.size(); c++) {
      Vector vector = batch.batch().vectors().get(c);
      more += bytes(vector, positions, batch.count());
      builders.get(c).addAll(vector, positions, batch.count());
    }
    rows += batch.count();
    if (rows > Integer.MAX_VALUE - 16) {
      throw new InvalidInputException(
          "The query has more than two billion rows for %s.".formatted(what));
    }
    bytes += more;
    running.take(2 * more);
  }

  private static long bytes(Vector vector, int[] positions, int count) {
    if (vector instanceof Vector.OfBytes texts) {
      long bytes = 8L * count;
      for (int i = 0; i < count; i++) {
        bytes += texts.isNull(positions[i]) ? 0 : texts.lengths()[positions[i]];
      }
      return bytes;
    }
    Type type = vector.type();
    return switch (type.physical()) {
      case BOOLEAN -> count;
      case INT, FLOAT -> 4L * count;
      case LONG, DOUBLE -> 8L * count;
      case BYTES, NESTED -> 64L * count;
    };
  }

  /** Lets the rows go and gives their memory back; nothing can be added afterwards. */
  public void release() {
    running.release();
    builders.clear();
  }

  /** About how many bytes the rows take. */
  public long bytes() {
    return bytes;
  }

  public int rows() {
    return (int) rows;
  }

  /** A row of nulls behind the others. */
  public void addNulls() {
    builders.forEach(VectorBuilder::addNull);
    rows++;
  }

  /** All rows; nothing can be added afterwards. */
  public Batch all() {
    List<Vector> vectors = builders.stream().map(VectorBuilder::buildLast).toList();
    return new Batch(columns.struct(), (int) rows, vectors);
  }
}
