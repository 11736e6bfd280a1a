package org.ysteron.internal.keys;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.List;
import java.util.stream.IntStream;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.rows.RowText;
import org.ysteron.report.SkippedRows;

/**
 * The keys of rows on their way into a table: by hash as long as they are few enough for memory,
 * and in any case what they have in common. Of many rows in the order of a column of the key it is
 * known that they differ, so that they are not hashed before somebody asks for them, which most
 * often nobody does. For one thread.
 */
public final class BroughtKeys {
  private final Schema schema;

  /** So many keys are told one by one. */
  private static final int FEW = 1000;

  /** From so many rows on their order is made use of; to hash fewer is faster than to read them. */
  private static final int MANY = 20_000;

  private final int[] columns;
  private final boolean[] ascends;
  private final long[] last;
  private boolean ordered;
  private final KeyHash hash = new KeyHash();
  private final KeyRanges bounds;
  private KeyIndex index;
  private long[] quick = new long[16];
  private long rows;
  private long twice;
  private final boolean skipsRejected;
  private SkippedRows skipped = SkippedRows.NONE;

  /** Of so many rows that are in files already, of which nothing is known yet. */
  public static BroughtKeys unread(Schema schema, long rows) {
    BroughtKeys keys = new BroughtKeys(schema, false);
    keys.rows = rows;
    keys.index = null;
    keys.quick = null;
    return keys;
  }

  /** {@code skipsRejected}: whether of rows of one key only the first is wanted. */
  public BroughtKeys(Schema schema, boolean skipsRejected) {
    this.skipsRejected = skipsRejected;
    this.schema = schema;
    List<Field> key = new ArrayList<>();
    this.columns = new int[schema.keyIds().size()];
    for (int i = 0; i < columns.length; i++) {
      Field column = schema.field(schema.keyIds().get(i)).orElseThrow();
      columns[i] = schema.columns().indexOf(column);
      key.add(column);
    }
    this.ascends = new boolean[columns.length];
    this.last = new long[columns.length];
    for (int i = 0; i < columns.length; i++) {
      Type.Physical held = key.get(i).type().physical();
      ascends[i] = !skipsRejected && (held == Type.Physical.LONG || held == Type.Physical.INT);
      last[i] = Long.MIN_VALUE;
    }
    this.bounds = new KeyRanges(key, FEW);
    this.index = new KeyIndex(schema.keyIds(), 16);
  }

  /**
   * Takes rows in the table's columns.
   *
   * @return the batch, without rows that are left out because one before them has their key
   */
  public Batch add(Batch batch) {
    Vector[] key = new Vector[columns.length];
    for (int i = 0; i < key.length; i++) {
      key[i] = batch.vectors().get(columns[i]);
    }
    if (isInOrder(key, batch.size())) {
      takeInOrder(key, batch.size());
      return batch;
    }
    BitSet again = new BitSet();
    for (int i = 0; i < batch.size(); i++) {
      bounds.add(key, i);
      if (index == null || !isThere(key, i)) {
        rows++;
      } else if (skipsRejected) {
        again.set(i);
        skipped = skipped.and(1, "More than once in these rows: " + told(batch, i));
      } else {
        rows++;
        twice++;
      }
    }
    return again.isEmpty()
        ? batch
        : Gather.rows(batch, IntStream.range(0, batch.size()).filter(i -> !again.get(i)).toArray());
  }

  /** Whether a column of the key ascends in all rows so far, and they are many. */
  private boolean isInOrder(Vector[] key, int size) {
    boolean some = false;
    for (int c = 0; c < key.length; c++) {
      for (int i = 0; i < size && ascends[c]; i++) {
        long value = key[c].isNull(i) ? Long.MIN_VALUE : Ordered.number(key[c], i);
        ascends[c] = value > last[c];
        last[c] = value;
      }
      some |= ascends[c];
    }
    boolean many = rows >= MANY && some;
    if (ordered && !many) {
      ordered = false; // those before were not hashed
      index = null;
    }
    return many;
  }

  private void takeInOrder(Vector[] key, int size) {
    ordered = true;
    index = null;
    quick = null;
    for (int c = 0; c < key.length; c++) {
      for (int i = 0; i < size; i++) {
        if (!ascends[c] || i == 0 || i == size - 1) {
          bounds.add(c, key[c], i);
        }
      }
    }
    rows += size;
  }

  /** Whether it is known that no two of the rows have one key. */
  public boolean areDifferent() {
    return ordered || (index != null && twice == 0);
  }

  /** Remembers the keys as they were read again. */
  public void remember(KeyIndex read) {
    index = read;
    quick = null;
    twice = 0;
  }

  private String told(Batch batch, int row) {
    boolean known = skipped.reasons().size() == SkippedRows.MOST_REASONS;
    return known ? "" : RowText.of(schema, batch.row(row));
  }

  /** Whether a row before has the key; remembers it. */
  private boolean isThere(Vector[] key, int row) {
    if (rows == KeyIndex.most()) {
      index = null;
      quick = null;
      return false;
    }
    if (!hash.hash(key, row)) {
      return false; // it has a null, and is refused for that
    }
    if (index.putIfAbsent(hash.first(), hash.second(), (int) rows) >= 0) {
      return true;
    }
    if (rows == quick.length) {
      quick = Arrays.copyOf(quick, quick.length * 2);
    }
    quick[(int) rows] = KeyHash.quick(key, row);
    return false;
  }

  /** The rows that were left out for one before them. */
  public SkippedRows skipped() {
    return skipped;
  }

  public long rows() {
    return rows;
  }

  /** How many rows have the key of one before them; not known when there are too many. */
  public long twice() {
    return twice;
  }

  /** Passed by every row that has one of the keys. */
  public Condition bounds(Schema table) {
    return bounds.isEmpty() ? Condition.all() : bounds.condition(table);
  }

  /** Whether some schema has the same key, under whatever names. */
  public boolean isKeyOf(Schema other) {
    return schema.keyIds().equals(other.keyIds());
  }

  /** Whether the columns of the key are of the same types in some schema, and so their hashes. */
  public boolean isOf(Schema other) {
    for (int id : schema.keyIds()) {
      Type type = schema.field(id).orElseThrow().type();
      if (other.field(id).filter(field -> field.type().equals(type)).isEmpty()) {
        return false;
      }
    }
    return true;
  }

  public boolean isInMemory() {
    return index != null;
  }

  /** The keys, each with the number of the first row that has it; as long as they are in memory. */
  public KeyIndex index() {
    if (quick != null) {
      index.expectQuick(rows);
      for (int i = 0; i < Math.min(rows, quick.length); i++) {
        index.addQuick(quick[i]);
      }
      quick = null;
    }
    return index;
  }
}
