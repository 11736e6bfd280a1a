package org.ysteron.internal.file;

import java.util.ArrayList;
import java.util.List;
import org.apache.parquet.column.ColumnWriteStore;
import org.apache.parquet.column.ColumnWriter;
import org.apache.parquet.io.api.Binary;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/**
 * Writes the values of one Parquet leaf from vectors, with the repetition and definition levels of
 * the Dremel paper (Melnik et al., VLDB 2010). For one thread.
 */
final class Shredder {
  private final ColumnWriteStore store;
  private final ColumnWriter writer;
  private final int column;
  private final List<Step> steps;

  /**
   * One level from a column down to a leaf.
   *
   * @param field the field at this level
   * @param child which of its inner vectors leads on: 0 the elements, keys or first field
   */
  record Step(Field field, int child) {}

  Shredder(ColumnWriteStore store, ColumnWriter writer, int column, List<Step> steps) {
    this.store = store;
    this.writer = writer;
    this.column = column;
    this.steps = List.copyOf(steps);
  }

  int column() {
    return column;
  }

  ColumnWriteStore store() {
    return store;
  }

  /** The leaf's field. */
  Field leaf() {
    return steps.get(steps.size() - 1).field();
  }

  /** The ways from a column to each of its leaves, in Parquet's order. */
  static List<List<Step>> paths(Field column) {
    List<List<Step>> paths = new ArrayList<>();
    collect(column, new ArrayList<>(), paths);
    return paths;
  }

  private static void collect(Field field, List<Step> above, List<List<Step>> paths) {
    List<Field> inner = org.ysteron.data.Schema.children(field.type());
    if (inner.isEmpty()) {
      List<Step> path = new ArrayList<>(above);
      path.add(new Step(field, -1));
      paths.add(path);
    }
    for (int i = 0; i < inner.size(); i++) {
      List<Step> along = new ArrayList<>(above);
      along.add(new Step(field, i));
      collect(inner.get(i), along, paths);
    }
  }

  /** Writes some rows. */
  void write(Vector vector, int from, int to) {
    if (steps.size() == 1) {
      writeFlat(vector, from, to);
      return;
    }
    for (int i = from; i < to; i++) {
      shred(vector, i, 0, 0, 0, 0);
      store.endRecord();
    }
  }

  private void shred(
      Vector vector, int i, int step, int repetition, int definition, int repeatedAbove) {
    Field field = steps.get(step).field();
    if (vector.isNull(i)) {
      writer.writeNull(repetition, definition);
      return;
    }
    int defined = definition + (field.required() ? 0 : 1);
    int child = steps.get(step).child();
    if (vector instanceof Vector.OfStruct struct) {
      shred(struct.fields().get(child), i, step + 1, repetition, defined, repeatedAbove);
    } else if (vector instanceof Vector.OfList list) {
      shredAll(list.elements(), list.offsets(), i, step, repetition, defined, repeatedAbove);
    } else if (vector instanceof Vector.OfMap map) {
      Vector inner = child == 0 ? map.keys() : map.mapped();
      shredAll(inner, map.offsets(), i, step, repetition, defined, repeatedAbove);
    } else {
      writeValue(vector, i, repetition, defined);
    }
  }

  private void shredAll(
      Vector inner,
      int[] offsets,
      int i,
      int step,
      int repetition,
      int defined,
      int repeatedAbove) {
    if (offsets[i] == offsets[i + 1]) {
      writer.writeNull(repetition, defined);
      return;
    }
    int level = repeatedAbove + 1;
    for (int at = offsets[i]; at < offsets[i + 1]; at++) {
      shred(inner, at, step + 1, at == offsets[i] ? repetition : level, defined + 1, level);
    }
  }

  private void writeFlat(Vector vector, int from, int to) {
    int defined = leaf().required() ? 0 : 1;
    if (vector instanceof Vector.OfLong longs) {
      long[] values = longs.values();
      for (int i = from; i < to; i++) {
        if (vector.isNull(i)) {
          writer.writeNull(0, 0);
        } else {
          writer.write(values[i], 0, defined);
        }
        store.endRecord();
      }
    } else if (vector instanceof Vector.OfInt ints) {
      int[] values = ints.values();
      for (int i = from; i < to; i++) {
        if (vector.isNull(i)) {
          writer.writeNull(0, 0);
        } else {
          writer.write(values[i], 0, defined);
        }
        store.endRecord();
      }
    } else if (vector instanceof Vector.OfDouble doubles) {
      double[] values = doubles.values();
      for (int i = from; i < to; i++) {
        if (vector.isNull(i)) {
          writer.writeNull(0, 0);
        } else {
          writer.write(values[i], 0, defined);
        }
        store.endRecord();
      }
    } else {
      for (int i = from; i < to; i++) {
        if (vector.isNull(i)) {
          writer.writeNull(0, 0);
        } else {
          writeValue(vector, i, 0, defined);
        }
        store.endRecord();
      }
    }
  }

  private void writeValue(Vector vector, int i, int repetition, int definition) {
    if (vector instanceof Vector.OfBytes bytes) {
      writer.write(stored(bytes, i), repetition, definition);
    } else if (vector instanceof Vector.OfLong longs) {
      writer.write(longs.values()[i], repetition, definition);
    } else if (vector instanceof Vector.OfInt ints) {
      writer.write(ints.values()[i], repetition, definition);
    } else if (vector instanceof Vector.OfDouble doubles) {
      writer.write(doubles.values()[i], repetition, definition);
    } else if (vector instanceof Vector.OfFloat floats) {
      writer.write(floats.values()[i], repetition, definition);
    } else {
      writer.write(((Vector.OfBoolean) vector).values()[i], repetition, definition);
    }
  }

  /** A value as it is stored, which may be valid only until the next one. */
  static Binary stored(Vector.OfBytes bytes, int i) {
    int start = bytes.starts()[i];
    if (bytes.type() instanceof Type.Decimal) {
      byte[] signed = java.util.Arrays.copyOfRange(bytes.data(), start, start + bytes.lengths()[i]);
      signed[0] ^= (byte) 0x80;
      return Binary.fromConstantByteArray(signed);
    }
    return Binary.fromReusedByteArray(bytes.data(), start, bytes.lengths()[i]);
  }
}
