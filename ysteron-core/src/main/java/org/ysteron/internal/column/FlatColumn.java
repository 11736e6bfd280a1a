package org.ysteron.internal.column;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.util.Arrays;
import java.util.Map;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.Encoding;
import org.apache.parquet.column.page.DataPage;
import org.apache.parquet.column.page.DataPageV1;
import org.apache.parquet.column.page.DataPageV2;
import org.apache.parquet.column.page.DictionaryPage;
import org.apache.parquet.column.page.PageReader;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.SpareBytes;

/**
 * Reads a leaf that is below no list or map, one row group, rows in ascending order. It decodes
 * whole runs of values into the arrays of a vector. For one thread.
 */
final class FlatColumn {
  private static final int SKIP_AT_ONCE = 4096;

  /** One row of so many, or less, is worth being decoded by itself. */
  private static final int FEW = 2;

  private final PageReader pages;
  private final ColumnDescriptor column;
  private final Type type;
  private final int maxDefinition;
  private final boolean turnSign;
  private final ValueDecoder.Words words;
  private long nextRow;
  private int pageLeft;
  private HybridDecoder levels;
  private ValueDecoder values;
  private final int[] all = new int[2];
  private int[] definitions = new int[0];
  private final Map<ColumnDescriptor, CodedRows> arrays;
  private CodedRows loaded;
  private byte[] spare;

  /**
   * A leaf of a row group.
   *
   * @param arrays what row groups of one file load rows into, one after the other
   */
  FlatColumn(
      PageReader pages,
      ColumnDescriptor column,
      Type type,
      Map<ColumnDescriptor, CodedRows> arrays) {
    this.arrays = arrays;
    this.pages = pages;
    this.column = column;
    this.type = type;
    this.maxDefinition = column.getMaxDefinitionLevel();
    this.turnSign = type instanceof Type.Decimal && type.physical() == Type.Physical.BYTES;
    this.words = words();
  }

  private ValueDecoder.Words words() {
    DictionaryPage page = pages.readDictionaryPage();
    if (page == null) {
      return null;
    }
    try {
      ValueDecoder.Words read =
          ValueDecoder.Words.of(page.getEncoding().initDictionary(column, page), column);
      keep(Codecs.heap(page.getBytes()));
      giveBack();
      return read;
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /**
   * Reads some rows.
   *
   * @param fromRow the first, counted in the row group; not before the end of the last call's
   * @param count how many
   * @param depths where the definition level of each row goes, or null when nobody asks
   */
  Vector read(long fromRow, int count, int[] depths) {
    return read(fromRow, allOf(count), count, depths);
  }

  /**
   * Reads some rows, passing over others.
   *
   * @param fromRow as before
   * @param runs behind it, ascending: how far, and how many rows, again and again
   * @param count how many rows in all
   */
  Vector readRuns(long fromRow, int[] runs, int count) {
    return read(fromRow, runs, count, null);
  }

  /** The rows that are loaded, whose arrays are not used again. */
  Vector give(long fromRow, int count) {
    Vector all = load(fromRow, count).all();
    arrays.remove(column);
    loaded = null;
    return all;
  }

  /** The run that is all of so many rows. */
  private int[] allOf(int count) {
    all[1] = count;
    return all;
  }

  private Vector read(long fromRow, int[] runs, int count, int[] depths) {
    Sink target = Sink.of(type, count);
    long[] nulls = fill(target, fromRow, runs, count, depths);
    return turnSign
        ? turned((Sink.ByteSink) target, count, nulls)
        : target.vector(type, count, nulls);
  }

  /** Whether rows can be {@linkplain #load loaded}. */
  boolean loads() {
    return !turnSign;
  }

  /** Reads rows into arrays that serve again; those that come from a dictionary as its numbers. */
  CodedRows load(long fromRow, int count) {
    return load(fromRow, count, null, count);
  }

  /**
   * The same where only some of the rows are needed, now and later.
   *
   * @param rows which, ascending, behind the first row
   * @param left how many
   */
  CodedRows load(long fromRow, int count, int[] rows, int left) {
    if (loaded == null) {
      loaded = arrays.get(column);
      if (loaded != null) {
        loaded.forget();
      }
    }
    if (loaded == null || loaded.capacity() < count) {
      loaded = new CodedRows(type, count);
      arrays.put(column, loaded);
    }
    if (!loaded.has(fromRow, count)) {
      loaded.begin(fromRow, count, left * FEW <= count ? rows : null, left);
      loaded.end(fill(loaded, fromRow, allOf(count), count, null));
    }
    return loaded;
  }

  /** Parquet's two's complement as bytes that order like the numbers. */
  private Vector turned(Sink.ByteSink sink, int count, long[] nulls) {
    byte[] data = sink.data;
    byte[] copy = new byte[16 * count];
    for (int i = 0; i < count; i++) {
      if (sink.lengths[i] == 16) {
        System.arraycopy(data, sink.starts[i], copy, 16 * i, 16);
        copy[16 * i] ^= (byte) 0x80;
      }
      sink.starts[i] = 16 * i;
    }
    return new Vector.OfBytes(type, count, copy, sink.starts, sink.lengths, nulls);
  }

  private void skipTo(long row) {
    while (nextRow < row) {
      if (pageLeft == 0) {
        openPage();
        if (nextRow > row) {
          throw new DamagedException("A page of a data file starts behind the rows asked for.");
        }
        continue;
      }
      if (row - nextRow >= pageLeft) {
        pass(pageLeft);
        continue;
      }
      skip((int) Math.min(SKIP_AT_ONCE, row - nextRow));
    }
  }

  /** Passes over rows of the page. */
  private void skip(int count) {
    int present = count;
    if (levels != null && !levels.skipRunOf(maxDefinition, count)) {
      readLevels(count);
      present = present(count);
    }
    values.skip(present);
    pass(count);
  }

  private void pass(int count) {
    pageLeft -= count;
    nextRow += count;
    if (pageLeft == 0) {
      giveBack();
    }
  }

  /** Remembers the array of a page, if it is the page's alone, to be given back after its rows. */
  private void keep(ByteBuffer page) {
    spare = Codecs.own(page);
  }

  private void giveBack() {
    if (spare != null) {
      SpareBytes.give(spare);
      spare = null;
      values = null;
      levels = null;
    }
  }

  private void readLevels(int count) {
    if (definitions.length < count) {
      definitions = new int[count];
    }
    levels.read(definitions, 0, count);
  }

  /** How many of the rows whose levels were read last have a value. */
  private int present(int count) {
    int present = 0;
    for (int i = 0; i < count; i++) {
      present += definitions[i] == maxDefinition ? 1 : 0;
    }
    return present;
  }

  private long[] fill(Sink sink, long fromRow, int[] runs, int total, int[] depths) {
    long[] nulls = null;
    int done = 0;
    for (int run = 0; run < runs.length; run += 2) {
      skipTo(fromRow + runs[run]);
      nulls = fill(sink, done, runs[run + 1], total, nulls, depths);
      done += runs[run + 1];
    }
    return nulls;
  }

  /** Fills places from a start on; {@code total}: how many places there are in all. */
  private long[] fill(Sink sink, int start, int count, int total, long[] before, int[] depths) {
    long[] nulls = before;
    int done = start;
    while (done < start + count) {
      if (pageLeft == 0) {
        long expected = nextRow;
        openPage();
        if (nextRow != expected) {
          throw new DamagedException("Rows are missing between two pages of a data file.");
        }
      }
      int take = Math.min(pageLeft, start + count - done);
      nulls = fillFromPage(sink, done, take, nulls, depths);
      if (nulls != null && nulls.length == 0) {
        nulls = new long[(total + 63) >> 6];
        markNulls(nulls, done, take);
      }
      done += take;
    }
    return nulls;
  }

  /** Sets the bits of the nulls among the last levels read. */
  private void markNulls(long[] nulls, int start, int count) {
    for (int i = 0; i < count; i++) {
      if (definitions[i] != maxDefinition) {
        nulls[(start + i) >> 6] |= 1L << (start + i);
      }
    }
  }

  private static final long[] FIRST_NULL = new long[0];

  private long[] fillFromPage(Sink sink, int start, int count, long[] nulls, int[] depths) {
    long[] result = nulls;
    if (levels == null || levels.skipRunOf(maxDefinition, count)) {
      if (depths != null) {
        Arrays.fill(depths, start, start + count, maxDefinition);
      }
      sink.takeRows(values, start, count);
    } else {
      readLevels(count);
      int present = present(count);
      sink.take(values, start, present);
      if (present < count) {
        sink.spread(start, count, present, definitions, maxDefinition);
        if (nulls == null) {
          result = FIRST_NULL;
        } else {
          markNulls(nulls, start, count);
        }
      }
      if (depths != null) {
        System.arraycopy(definitions, 0, depths, start, count);
      }
    }
    pass(count);
    return result;
  }

  private void openPage() {
    DataPage page = pages.readPage();
    if (page == null) {
      throw new DamagedException("A column of a data file has fewer rows than its row group.");
    }
    if (page.getFirstRowIndex().isPresent()) {
      nextRow = page.getFirstRowIndex().get();
    }
    pageLeft = page.getValueCount();
    try {
      if (page instanceof DataPageV1 v1) {
        open(v1);
      } else {
        open((DataPageV2) page);
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private void open(DataPageV1 page) throws IOException {
    ByteBuffer bytes = Codecs.heap(page.getBytes()).duplicate();
    keep(bytes);
    levels = null;
    if (maxDefinition > 0) {
      if (page.getDlEncoding() != Encoding.RLE) {
        throw new DamagedException("A page has levels in the encoding " + page.getDlEncoding());
      }
      int length = bytes.order(java.nio.ByteOrder.LITTLE_ENDIAN).getInt();
      if (length < 0 || length > bytes.remaining()) {
        throw new DamagedException("A page has levels of impossible length " + length + ".");
      }
      levels = levels(bytes, length);
      bytes.position(bytes.position() + length);
    }
    values = decoder(page.getValueEncoding(), bytes);
  }

  private void open(DataPageV2 page) throws IOException {
    ByteBuffer definition = Codecs.heap(page.getDefinitionLevels());
    levels = maxDefinition > 0 ? levels(definition, definition.remaining()) : null;
    ByteBuffer bytes = Codecs.heap(page.getData());
    keep(bytes);
    values = decoder(page.getDataEncoding(), bytes);
  }

  private ValueDecoder decoder(Encoding encoding, ByteBuffer bytes) {
    ValueDecoder decoder = ValueDecoder.of(encoding, bytes, pageLeft, column, words);
    if (decoder.keepsBytes()) {
      spare = null;
    }
    return decoder;
  }

  private HybridDecoder levels(ByteBuffer bytes, int length) {
    int start = bytes.arrayOffset() + bytes.position();
    int width = 32 - Integer.numberOfLeadingZeros(maxDefinition);
    return new HybridDecoder(bytes.array(), start, start + length, width);
  }
}
