package org.ysteron.change;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Gather;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;

/**
 * The keys of rows on their way into a table: by hash as long as they are few enough for memory,
 * and in any case what they have in common. For one thread.
 */
final class BroughtKeys {
  private final Schema schema;
  private final int[] columns;
  private final KeyHash hash = new KeyHash();
  private final KeyBounds bounds;
  private KeyIndex index;
  private long[] quick = new long[16];
  private long rows;
  private long twice;
  private final boolean leavesOut;
  private LeftOut leftOut = LeftOut.NONE;

  /** Of so many rows that are in files already, of which nothing is known yet. */
  static BroughtKeys unread(Schema schema, long rows) {
    BroughtKeys keys = new BroughtKeys(schema, false);
    keys.rows = rows;
    keys.index = null;
    keys.quick = null;
    return keys;
  }

  /** {@code leavesOut}: whether of rows of one key only the first is wanted. */
  BroughtKeys(Schema schema, boolean leavesOut) {
    this.leavesOut = leavesOut;
    this.schema = schema;
    List<Field> key = new ArrayList<>();
    this.columns = new int[schema.keyIds().size()];
    for (int i = 0; i < columns.length; i++) {
      Field column = schema.field(schema.keyIds().get(i)).orElseThrow();
      columns[i] = schema.columns().indexOf(column);
      key.add(column);
    }
    this.bounds = new KeyBounds(key);
    this.index = new KeyIndex(schema.keyIds(), 16);
  }

  /**
   * Takes rows in the table's columns.
   *
   * @return the batch, without rows that are left out because one before them has their key
   */
  Batch add(Batch batch) {
    Vector[] key = new Vector[columns.length];
    for (int i = 0; i < key.length; i++) {
      key[i] = batch.vectors().get(columns[i]);
    }
    long[] kept = null;
    for (int i = 0; i < batch.size(); i++) {
      bounds.add(key, i);
      boolean again = index != null && isThere(key, i);
      if (!again) {
        rows++;
      } else if (leavesOut) {
        kept = kept == null ? all(batch.size()) : kept;
        kept[i >> 6] &= ~(1L << i);
        leftOut = leftOut.and(1, "Twice among these rows: " + told(batch, i));
      } else {
        rows++;
        twice++;
      }
    }
    return kept == null ? batch : Gather.keep(batch, kept);
  }

  private String told(Batch batch, int row) {
    boolean known = leftOut.reasons().size() == LeftOut.MOST_REASONS;
    return known ? "" : Assignment.describe(schema, batch.row(row));
  }

  private static long[] all(int size) {
    long[] bits = new long[(size + 63) >> 6];
    for (int i = 0; i < size; i++) {
      bits[i >> 6] |= 1L << i;
    }
    return bits;
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
  LeftOut leftOut() {
    return leftOut;
  }

  long rows() {
    return rows;
  }

  /** How many rows have the key of one before them; not known when there are too many. */
  long twice() {
    return twice;
  }

  /** Passed by every row that has one of the keys. */
  Condition bounds() {
    return bounds.isEmpty() ? Condition.all() : bounds.condition();
  }

  /** Whether the columns of the key are of the same types in some schema, and so their hashes. */
  boolean isOf(Schema other) {
    for (int id : schema.keyIds()) {
      Type type = schema.field(id).orElseThrow().type();
      if (other.field(id).filter(field -> field.type().equals(type)).isEmpty()) {
        return false;
      }
    }
    return true;
  }

  boolean isInMemory() {
    return index != null;
  }

  /** The keys, each with the number of the first row that has it; as long as they are in memory. */
  KeyIndex index() {
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
