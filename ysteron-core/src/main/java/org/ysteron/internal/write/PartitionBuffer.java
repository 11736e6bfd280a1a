package org.ysteron.internal.write;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.layout.Partitioner;
import org.ysteron.internal.rows.FieldPath;

/**
 * Rows apart by the parts that a layout's rules give them, until there are enough of one part to be
 * written. Memory is bounded. For one thread.
 */
final class PartitionBuffer {
  private static final long MOST_BYTES = 64L << 20;
  private static final long ENOUGH_BYTES = 24L << 20;
  private static volatile long most = MOST_BYTES;

  private final Schema schema;
  private final List<Partitioner> partitioners;
  private final List<FieldPath> paths = new ArrayList<>();
  private final Map<Parts, Pending> pending = new TreeMap<>();
  private final long mostBytes;
  private long bytes;

  /** The parts of a row by each rule; null for a value that is null. */
  record Parts(List<Long> numbers) implements Comparable<Parts> {
    @Override
    public int compareTo(Parts other) {
      for (int i = 0; i < numbers.size(); i++) {
        Long mine = numbers.get(i);
        Long theirs = other.numbers.get(i);
        if (!Objects.equals(mine, theirs)) {
          return mine == null ? -1 : theirs == null ? 1 : Long.compare(mine, theirs);
        }
      }
      return 0;
    }
  }

  /** The rows of some parts. */
  static final class Pending {
    private final Parts parts;
    private final Schema schema;
    private final VectorBuilder[] builders;
    private int rows;
    private long bytes;

    Pending(Parts parts, Schema schema) {
      this.parts = parts;
      this.schema = schema;
      this.builders =
          schema.columns().stream()
              .map(column -> new VectorBuilder(column.type()))
              .toArray(VectorBuilder[]::new);
    }

    Parts parts() {
      return parts;
    }

    /** Adds all rows of a batch. */
    void add(Batch batch) {
      int[] all = new int[batch.size()];
      Arrays.setAll(all, i -> i);
      add(batch, all, all.length);
    }

    long bytes() {
      return bytes;
    }

    private void add(Batch batch, int[] from, int count) {
      for (int c = 0; c < builders.length; c++) {
        builders[c].addAll(batch.vectors().get(c), from, count);
      }
      rows += count;
      bytes = 0;
      for (VectorBuilder builder : builders) {
        bytes += builder.heldBytes();
      }
    }

    /** All its rows; it is not to be used any more. */
    Batch batch() {
      List<Vector> vectors = new ArrayList<>();
      for (int c = 0; c < builders.length; c++) {
        vectors.add(builders[c].buildLast());
        builders[c] = null;
      }
      return new Batch(schema.struct(), rows, vectors);
    }
  }

  /**
   * Holds nothing yet.
   *
   * @param schema of the rows; it has the columns that the rules need
   * @param memory about how many bytes it may hold
   */
  PartitionBuffer(Schema schema, List<Partitioner> partitioners, long memory) {
    this.mostBytes = Math.min(most, memory);
    this.schema = schema;
    this.partitioners = partitioners;
    partitioners.forEach(partitioner -> paths.add(FieldPath.of(schema, partitioner.fieldId())));
  }

  /** Sets how many bytes are in memory at once, so that tests reach it; 0 for what it is. */
  static void limitTo(long bytes) {
    most = bytes == 0 ? MOST_BYTES : bytes;
  }

  void add(Batch batch) {
    Vector[] vectors = paths.stream().map(path -> path.in(batch)).toArray(Vector[]::new);
    Map<Parts, Integer> groups = new HashMap<>();
    List<Parts> order = new ArrayList<>();
    int[] groupOf = new int[batch.size()];
    Long[] last = null;
    for (int i = 0; i < batch.size(); i++) {
      Long[] numbers = new Long[vectors.length];
      for (int r = 0; r < numbers.length; r++) {
        numbers[r] = vectors[r].isNull(i) ? null : partitioners.get(r).part(vectors[r], i);
      }
      if (last != null && Arrays.equals(numbers, last)) {
        groupOf[i] = groupOf[i - 1];
        continue;
      }
      last = numbers;
      Parts parts = new Parts(Arrays.asList(numbers));
      groupOf[i] =
          groups.computeIfAbsent(
              parts,
              p -> {
                order.add(p);
                return order.size() - 1;
              });
    }
    int[] counts = new int[order.size()];
    for (int group : groupOf) {
      counts[group]++;
    }
    int[][] rows = new int[order.size()][];
    for (int g = 0; g < rows.length; g++) {
      rows[g] = new int[counts[g]];
    }
    int[] filled = new int[order.size()];
    for (int i = 0; i < groupOf.length; i++) {
      rows[groupOf[i]][filled[groupOf[i]]++] = i;
    }
    for (int g = 0; g < rows.length; g++) {
      Pending part = pending.computeIfAbsent(order.get(g), p -> new Pending(p, schema));
      bytes -= part.bytes;
      part.add(batch, rows[g], rows[g].length);
      bytes += part.bytes;
    }
  }

  /** About the bytes that are held. */
  long bytes() {
    return bytes;
  }

  boolean isFull() {
    return bytes >= mostBytes;
  }

  /** The part with the most bytes when it has enough for a file; it is not held any longer. */
  Optional<Pending> largest() {
    Pending largest = null;
    for (Pending part : pending.values()) {
      largest = largest == null || part.bytes > largest.bytes ? part : largest;
    }
    if (largest == null || largest.bytes < Math.min(ENOUGH_BYTES, mostBytes / 2)) {
      return Optional.empty();
    }
    bytes -= largest.bytes;
    pending.remove(largest.parts);
    return Optional.of(largest);
  }

  /** All that is left, in the order of the parts; nothing is held any longer. */
  List<Pending> rest() {
    List<Pending> rest = new ArrayList<>(pending.values());
    pending.clear();
    bytes = 0;
    return rest;
  }

  /** What a file of some parts tells of them in its ranges. */
  void tell(Parts parts, long rows, Map<Integer, ColumnRange> ranges) {
    for (int r = 0; r < partitioners.size(); r++) {
      Long part = parts.numbers().get(r);
      ranges.put(
          partitioners.get(r).partId(),
          part == null
              ? ColumnRange.allNull(Types.BIGINT, rows)
              : ColumnRange.of(Types.BIGINT, 0, part, part));
    }
  }
}
