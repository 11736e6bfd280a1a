package org.ysteron.internal.merge;

import java.time.temporal.Temporal;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.keys.KeyHash;
import org.ysteron.internal.keys.KeyIndex;
import org.ysteron.internal.keys.KeyRanges;

/**
 * The keys of one part of a source: which row has which key, of several the one that counts. Parts
 * are taken by hash, so that all rows of a key are in the same one. For one thread.
 */
final class SourceKeys {
  private final RowSpool source;
  private final Schema table;
  private final List<Field> on;
  private final MergeSpec.Duplicates duplicates;
  private final int part;
  private final int parts;
  private final KeyHash hash = new KeyHash();
  private final KeyRanges bounds;
  private final KeyIndex index;
  private Object[] greatest = new Object[0];

  /** {@code on}: the columns of the table that are matched. */
  SourceKeys(
      RowSpool source,
      Schema table,
      List<Field> on,
      MergeSpec.Duplicates duplicates,
      int part,
      int parts) {
    this.source = source;
    this.table = table;
    this.on = on;
    this.duplicates = duplicates;
    this.part = part;
    this.parts = parts;
    this.bounds = new KeyRanges(on);
    int expected = (int) Math.min(KeyIndex.most(), source.rows() / parts + 1);
    this.index = new KeyIndex(on.stream().map(Field::id).toList(), expected);
    index.expectQuick(expected);
    source.forEach(this::add);
  }

  KeyIndex index() {
    return index;
  }

  /** Passed by every row that has one of the keys. */
  Condition bounds() {
    return index.size() == 0 ? new Condition.Or(List.of()) : bounds.condition(table);
  }

  /** Whether a key of that hash is in this part. */
  boolean isInPart(long first) {
    return parts == 1 || Math.floorMod(first >>> 40, parts) == part;
  }

  /** The key of rows of the source. */
  Vector[] key(Batch batch) {
    return on.stream().map(field -> batch.vector(field.name())).toArray(Vector[]::new);
  }

  /** Whether a row of the source counts: it has a null in its key, or is the one of its key. */
  boolean counts(Vector[] key, int row, long number) {
    if (!hash.hash(key, row)) {
      return part == 0;
    }
    return isInPart(hash.first()) && index.find(hash.first(), hash.second()) == number;
  }

  private void add(long first, Batch batch) {
    Vector[] key = key(batch);
    for (int i = 0; i < batch.size(); i++) {
      if (!hash.hash(key, i) || !isInPart(hash.first())) {
        continue;
      }
      bounds.add(key, i);
      index.addQuick(KeyHash.quick(key, i));
      int row = (int) (first + i);
      int before = index.put(hash.first(), hash.second(), row);
      if (duplicates instanceof MergeSpec.Duplicates.Greatest rule) {
        Vector values = batch.vector(rule.column());
        keepGreatest(before, row, values.get(i), values.type());
      } else if (before >= 0 && duplicates instanceof MergeSpec.Duplicates.Refuse) {
        throw new InvalidInputException(
            "Rows %d and %d of the source have the same key, %s. Nothing was changed; remove one of them, or use the last row or the row with the largest value of a column."
                .formatted(before + 1, row + 1, source.describe(row, table)));
      }
    }
  }

  private void keepGreatest(int before, int row, Object value, Type type) {
    if (row >= greatest.length) {
      greatest = Arrays.copyOf(greatest, Math.max(row + 1, greatest.length * 2));
    }
    Object theirs = before < 0 ? null : greatest[before];
    if (theirs != null && (value == null || compare(value, theirs, type) < 0)) {
      index.put(hash.first(), hash.second(), before);
      return;
    }
    if (before >= 0) {
      greatest[before] = null;
    }
    greatest[row] = value;
  }

  @SuppressWarnings("unchecked") // both are values of one column
  private static int compare(Object a, Object b, Type type) {
    if (a instanceof Number || a instanceof Boolean || a instanceof Temporal) {
      return ((Comparable<Object>) a).compareTo(b);
    }
    return Arrays.compareUnsigned(Values.toBytes(a, type), Values.toBytes(b, type));
  }
}
