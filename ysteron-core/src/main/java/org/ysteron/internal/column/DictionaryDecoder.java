package org.ysteron.internal.column;

import java.nio.ByteBuffer;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;

/** Indexes into a dictionary. */
final class DictionaryDecoder extends ValueDecoder {
  private final Words words;
  private final HybridDecoder decoder;
  private int[] codes = new int[0];

  DictionaryDecoder(ByteBuffer values, Words words) {
    this.words = words;
    byte[] array = values.array();
    int start = values.arrayOffset() + values.position();
    int end = start + values.remaining();
    int width = values.hasRemaining() ? array[start] & 0xff : 0;
    this.decoder = new HybridDecoder(array, Math.min(start + 1, end), end, width);
  }

  private int[] codes(int count, int most) {
    if (codes.length < count) {
      codes = new int[count];
    }
    decode(codes, 0, count, most);
    return codes;
  }

  private void decode(int[] target, int start, int count, int most) {
    decoder.read(target, start, count);
    int beyond = 0; // its sign is that of any code that is negative, or not below the most
    for (int i = start; i < start + count; i++) {
      beyond |= target[i] | ~(target[i] - most);
    }
    refuse(beyond);
  }

  ValueDecoder.Words dictionary() {
    return words;
  }

  /** Decodes the numbers of values. */
  void codes(int[] target, int start, int count) {
    decode(target, start, count, words.size());
  }

  /**
   * Decodes the numbers of some of the next values, each to its own place; at the others stays what
   * was there, which must be numbers of the same dictionary.
   *
   * @param rows the places that are wanted, ascending; those from {@code from} up to {@code to} are
   *     of the next values
   */
  void codesAt(int[] target, int start, int count, int[] rows, int from, int to) {
    int most = words.size();
    decoder.readAt(target, start, count, rows, from, to);
    int beyond = most - 1;
    for (int j = from; j < to; j++) {
      int code = target[rows[j]];
      beyond |= code | ~(code - most);
    }
    refuse(beyond);
  }

  private static void refuse(int beyond) {
    if (beyond < 0) {
      throw new DamagedException("A page refers to a word that its dictionary lacks.");
    }
  }

  @Override
  void skip(int count) {
    decoder.skip(count);
  }

  @Override
  void ints(int[] target, int start, int count) {
    int[] of = words.ints;
    int[] read = codes(count, of.length);
    for (int i = 0; i < count; i++) {
      target[start + i] = of[read[i]];
    }
  }

  @Override
  void longs(long[] target, int start, int count) {
    long[] of = words.longs;
    int[] read = codes(count, of.length);
    for (int i = 0; i < count; i++) {
      target[start + i] = of[read[i]];
    }
  }

  @Override
  void floats(float[] target, int start, int count) {
    float[] of = words.floats;
    int[] read = codes(count, of.length);
    for (int i = 0; i < count; i++) {
      target[start + i] = of[read[i]];
    }
  }

  @Override
  void doubles(double[] target, int start, int count) {
    double[] of = words.doubles;
    int[] read = codes(count, of.length);
    for (int i = 0; i < count; i++) {
      target[start + i] = of[read[i]];
    }
  }

  @Override
  void booleans(boolean[] target, int start, int count) {
    throw wrongType();
  }

  @Override
  Vector.Words words() {
    return words.bytes.shared;
  }

  @Override
  byte[] bytes(int[] starts, int[] lengths, int[] numbers, int start, int count) {
    Bytes of = words.bytes;
    decode(numbers, start, count, of.starts.length);
    int[] from = of.starts;
    int[] sizes = of.lengths;
    for (int i = start; i < start + count; i++) {
      int code = numbers[i];
      starts[i] = from[code];
      lengths[i] = sizes[code];
    }
    return of.data;
  }
}
