package org.ysteron.internal.read;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.table.FileEntry;

/**
 * Tells where the rows of a version are, in two columns behind the others: the number of the data
 * file, and the position in it. Remembers the files. Thread-safe.
 */
public final class Located {
  private final Map<Long, FileEntry> files = new ConcurrentHashMap<>();
  private final Field file;
  private final Field position;

  /** For rows of a table; its columns keep their names. */
  public Located(Schema table) {
    this.file = Field.of(free("file of row", table), Types.BIGINT).notNull();
    this.position = Field.of(free("position of row", table), Types.BIGINT).notNull();
  }

  private static String free(String name, Schema table) {
    String free = name;
    while (table.columns().stream().map(Field::name).anyMatch(free::equalsIgnoreCase)) {
      free += "_";
    }
    return free;
  }

  /** The column with the numbers of data files. */
  public Field file() {
    return file;
  }

  /** The column with the positions in them. */
  public Field position() {
    return position;
  }

  /** Some columns with both behind them. */
  public Schema with(Schema columns) {
    return Schema.ofNamesByCase(
        Stream.concat(columns.columns().stream(), Stream.of(file, position)).toList());
  }

  /** A file that was read. */
  public FileEntry entry(long number) {
    return files.get(number);
  }

  SelectedBatch told(FileRows rows) {
    long number = rows.file().numbers().number();
    files.putIfAbsent(number, rows.file());
    int size = rows.size();
    long[] numbers = new long[size];
    long[] positions = new long[size];
    for (int i = 0; i < size; i++) {
      numbers[i] = number;
      positions[i] = rows.position(i);
    }
    Batch read = rows.rows();
    List<Vector> vectors = new ArrayList<>(read.vectors());
    vectors.add(new Vector.OfLong(Types.BIGINT, size, numbers, null));
    vectors.add(new Vector.OfLong(Types.BIGINT, size, positions, null));
    Schema columns = with(Schema.ofNamesByCase(read.columns().fields()));
    return new SelectedBatch(new Batch(columns.struct(), size, vectors), null, size);
  }
}
