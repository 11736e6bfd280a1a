package org.ysteron.internal.column;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.Arrays;
import org.apache.parquet.bytes.ByteBufferInputStream;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.Dictionary;
import org.apache.parquet.column.Encoding;
import org.apache.parquet.column.ValuesType;
import org.apache.parquet.column.values.ValuesReader;
import org.apache.parquet.io.api.Binary;
import org.apache.parquet.schema.PrimitiveType.PrimitiveTypeName;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;

/**
 * Decodes the values of one page in bulk, straight into arrays. Plain and dictionary pages, which
 * this library writes, have loops of their own; pages of any other encoding go through the Parquet
 * library's readers value by value. For one thread.
 */
abstract class ValueDecoder {

  /** Where bytes are: value {@code i} is {@code lengths[i]} bytes of {@code data}. */
  static final class Bytes {
    byte[] data;
    int[] starts;
    int[] lengths;
    Vector.Words shared;
  }

  /** A dictionary as arrays. */
  static final class Words {
    int[] ints;
    long[] longs;
    float[] floats;
    double[] doubles;
    Bytes bytes;

    /** How many words there are. */
    int size() {
      return ints != null
          ? ints.length
          : longs != null
              ? longs.length
              : floats != null
                  ? floats.length
                  : doubles != null ? doubles.length : bytes.starts.length;
    }

    static Words of(Dictionary dictionary, ColumnDescriptor column) {
      int size = dictionary.getMaxId() + 1;
      Words words = new Words();
      switch (column.getPrimitiveType().getPrimitiveTypeName()) {
        case INT32 -> {
          words.ints = new int[size];
          Arrays.setAll(words.ints, dictionary::decodeToInt);
        }
        case INT64 -> {
          words.longs = new long[size];
          Arrays.setAll(words.longs, dictionary::decodeToLong);
        }
        case FLOAT -> {
          words.floats = new float[size];
          for (int i = 0; i < size; i++) {
            words.floats[i] = dictionary.decodeToFloat(i);
          }
        }
        case DOUBLE -> {
          words.doubles = new double[size];
          Arrays.setAll(words.doubles, dictionary::decodeToDouble);
        }
        default -> {
          Binary[] values = new Binary[size];
          Arrays.setAll(values, dictionary::decodeToBinary);
          words.bytes = collect(values, size);
          words.bytes.shared =
              new Vector.Words(words.bytes.data, words.bytes.starts, words.bytes.lengths);
        }
      }
      return words;
    }
  }

  private static Bytes collect(Binary[] values, int size) {
    Bytes bytes = new Bytes();
    bytes.starts = new int[size];
    bytes.lengths = new int[size];
    int total = 0;
    for (int i = 0; i < size; i++) {
      bytes.starts[i] = total;
      bytes.lengths[i] = values[i].length();
      total = Math.addExact(total, values[i].length());
    }
    bytes.data = new byte[total];
    for (int i = 0; i < size; i++) {
      values[i].toByteBuffer().get(bytes.data, bytes.starts[i], bytes.lengths[i]);
    }
    return bytes;
  }

  /** A decoder for the values of a page. */
  static ValueDecoder of(
      Encoding encoding, ByteBuffer values, int count, ColumnDescriptor column, Words words) {
    if (encoding.usesDictionary()) {
      if (words == null) {
        throw new DamagedException("A page needs a dictionary that its column lacks.");
      }
      return new DictionaryDecoder(values, words);
    }
    PrimitiveTypeName type = column.getPrimitiveType().getPrimitiveTypeName();
    if (encoding == Encoding.PLAIN && type != PrimitiveTypeName.INT96) {
      return new Plain(values, type, column.getPrimitiveType().getTypeLength());
    }
    return new ByLibrary(encoding, values, count, column);
  }

  /** Passes over values. */
  abstract void skip(int count);

  /** Whether what it gives points into the bytes of the page. */
  boolean keepsBytes() {
    return false;
  }

  abstract void ints(int[] target, int start, int count);

  abstract void longs(long[] target, int start, int count);

  abstract void floats(float[] target, int start, int count);

  abstract void doubles(double[] target, int start, int count);

  abstract void booleans(boolean[] target, int start, int count);

  /** The dictionary that the values are from; null when they are from none. */
  Vector.Words words() {
    return null;
  }

  /**
   * Fills starts and lengths and returns the array that they point into.
   *
   * @param codes gets the numbers of the values in their dictionary, if they are from one
   */
  abstract byte[] bytes(int[] starts, int[] lengths, int[] codes, int start, int count);

  static DamagedException wrongType() {
    return new DamagedException("A page holds values of another type than its column.");
  }

  /** Values one behind the other. */
  private static final class Plain extends ValueDecoder {
    private final ByteBuffer values;
    private final PrimitiveTypeName type;
    private final int fixedLength;
    private int bit;

    Plain(ByteBuffer values, PrimitiveTypeName type, int fixedLength) {
      this.values = values.slice().order(ByteOrder.LITTLE_ENDIAN);
      this.type = type;
      this.fixedLength = fixedLength;
    }

    @Override
    boolean keepsBytes() {
      return type == PrimitiveTypeName.BINARY || type == PrimitiveTypeName.FIXED_LEN_BYTE_ARRAY;
    }

    private void need(long bytes) {
      if (bytes > values.remaining()) {
        throw new DamagedException("A page ends before its last value.");
      }
    }

    @Override
    void skip(int count) {
      switch (type) {
        case BOOLEAN -> {
          need((bit + (long) count + 7) / 8);
          bit += count;
        }
        case INT32, FLOAT -> skipBytes(4L * count);
        case INT64, DOUBLE -> skipBytes(8L * count);
        case FIXED_LEN_BYTE_ARRAY -> skipBytes((long) fixedLength * count);
        default -> {
          for (int i = 0; i < count; i++) {
            need(4);
            long length = values.getInt();
            if (length < 0) {
              throw new DamagedException("A page has a value of impossible length " + length + ".");
            }
            skipBytes(length);
          }
        }
      }
    }

    private void skipBytes(long count) {
      need(count);
      values.position(values.position() + (int) count);
    }

    @Override
    void ints(int[] target, int start, int count) {
      need(4L * count);
      values.asIntBuffer().get(target, start, count);
      values.position(values.position() + 4 * count);
    }

    @Override
    void longs(long[] target, int start, int count) {
      need(8L * count);
      values.asLongBuffer().get(target, start, count);
      values.position(values.position() + 8 * count);
    }

    @Override
    void floats(float[] target, int start, int count) {
      need(4L * count);
      values.asFloatBuffer().get(target, start, count);
      values.position(values.position() + 4 * count);
    }

    @Override
    void doubles(double[] target, int start, int count) {
      need(8L * count);
      values.asDoubleBuffer().get(target, start, count);
      values.position(values.position() + 8 * count);
    }

    @Override
    void booleans(boolean[] target, int start, int count) {
      need((bit + (long) count + 7) / 8);
      for (int i = 0; i < count; i++, bit++) {
        target[start + i] = ((values.get(bit >> 3) >> (bit & 7)) & 1) == 1;
      }
    }

    @Override
    byte[] bytes(int[] starts, int[] lengths, int[] codes, int start, int count) {
      int base = values.arrayOffset();
      int at = values.position();
      int end = values.limit();
      boolean fixed = type == PrimitiveTypeName.FIXED_LEN_BYTE_ARRAY;
      for (int i = start; i < start + count; i++) {
        int length;
        if (fixed) {
          length = fixedLength;
        } else {
          if (at + 4 > end) {
            throw new DamagedException("A page ends before its last value.");
          }
          length = values.getInt(at);
          at += 4;
        }
        if (length < 0 || length > end - at) {
          throw new DamagedException("A page has a value of impossible length " + length + ".");
        }
        starts[i] = base + at;
        lengths[i] = length;
        at += length;
      }
      values.position(at);
      return values.array();
    }
  }

  /** Any other encoding. */
  private static final class ByLibrary extends ValueDecoder {
    private final ValuesReader reader;

    ByLibrary(Encoding encoding, ByteBuffer values, int count, ColumnDescriptor column) {
      reader = encoding.getValuesReader(column, ValuesType.VALUES);
      try {
        reader.initFromPage(count, ByteBufferInputStream.wrap(values));
      } catch (IOException e) {
        throw new UncheckedIOException(e);
      }
    }

    @Override
    void ints(int[] target, int start, int count) {
      for (int i = start; i < start + count; i++) {
        target[i] = reader.readInteger();
      }
    }

    @Override
    void longs(long[] target, int start, int count) {
      for (int i = start; i < start + count; i++) {
        target[i] = reader.readLong();
      }
    }

    @Override
    void skip(int count) {
      reader.skip(count);
    }

    @Override
    void floats(float[] target, int start, int count) {
      for (int i = start; i < start + count; i++) {
        target[i] = reader.readFloat();
      }
    }

    @Override
    void doubles(double[] target, int start, int count) {
      for (int i = start; i < start + count; i++) {
        target[i] = reader.readDouble();
      }
    }

    @Override
    void booleans(boolean[] target, int start, int count) {
      for (int i = start; i < start + count; i++) {
        target[i] = reader.readBoolean();
      }
    }

    @Override
    byte[] bytes(int[] starts, int[] lengths, int[] codes, int start, int count) {
      Binary[] values = new Binary[count];
      for (int i = 0; i < count; i++) {
        values[i] = reader.readBytes();
      }
      Bytes collected = collect(values, count);
      System.arraycopy(collected.starts, 0, starts, start, count);
      System.arraycopy(collected.lengths, 0, lengths, start, count);
      return collected.data;
    }
  }
}
