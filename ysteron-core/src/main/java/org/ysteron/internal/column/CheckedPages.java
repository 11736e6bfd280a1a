package org.ysteron.internal.column;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.Optional;
import java.util.PrimitiveIterator;
import org.apache.parquet.bytes.BytesInput;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.Encoding;
import org.apache.parquet.column.page.DataPage;
import org.apache.parquet.column.page.DataPageV1;
import org.apache.parquet.column.page.DataPageV2;
import org.apache.parquet.column.page.DictionaryPage;
import org.apache.parquet.column.page.PageReadStore;
import org.apache.parquet.column.page.PageReader;
import org.ysteron.error.DamagedException;

/**
 * The pages of a row group, with the numbers in them compared with the bytes there are: decoders
 * make arrays as large as the numbers say.
 */
public final class CheckedPages implements PageReadStore {
  private static final int LENGTH_BYTES = Integer.BYTES;

  private final PageReadStore pages;
  private volatile boolean isShared;

  public CheckedPages(PageReadStore pages) {
    this.pages = pages;
  }

  @Override
  public PageReader getPageReader(ColumnDescriptor column) {
    return new Checked(pages.getPageReader(column), column);
  }

  @Override
  public long getRowCount() {
    return pages.getRowCount();
  }

  @Override
  public Optional<Long> getRowIndexOffset() {
    return pages.getRowIndexOffset();
  }

  @Override
  public Optional<PrimitiveIterator.OfLong> getRowIndexes() {
    return pages.getRowIndexes();
  }

  /** Lets the chunks go, unless values may point into them. */
  @Override
  public void close() {
    if (!isShared) {
      pages.close();
    }
  }

  /** Remembers pages that are not compressed, and so are parts of their chunks. */
  private void share(BytesInput bytes) {
    try {
      if (Codecs.own(Codecs.heap(bytes)) == null) {
        isShared = true; // by any of the threads that read columns
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private final class Checked implements PageReader {
    private final PageReader pages;
    private final ColumnDescriptor column;

    Checked(PageReader pages, ColumnDescriptor column) {
      this.pages = pages;
      this.column = column;
    }

    @Override
    public DictionaryPage readDictionaryPage() {
      DictionaryPage page = pages.readDictionaryPage();
      if (page != null) {
        check(page.getDictionarySize(), page.getBytes().size());
        share(page.getBytes());
      }
      return page;
    }

    @Override
    public long getTotalValueCount() {
      return pages.getTotalValueCount();
    }

    @Override
    public DataPage readPage() {
      DataPage page = pages.readPage();
      if (page != null) {
        check(page.getValueCount(), Integer.MAX_VALUE);
        try {
          share(page instanceof DataPageV2 v2 ? v2.getData() : ((DataPageV1) page).getBytes());
          Encoding encoding =
              page instanceof DataPageV1 v1
                  ? v1.getValueEncoding()
                  : ((DataPageV2) page).getDataEncoding();
          if (encoding == Encoding.DELTA_BINARY_PACKED
              || encoding == Encoding.DELTA_BYTE_ARRAY
              || encoding == Encoding.DELTA_LENGTH_BYTE_ARRAY) {
            checkStagedChanges(values(page), page.getValueCount());
          }
        } catch (IOException e) {
          throw new UncheckedIOException(e);
        }
      }
      return page;
    }

    private static void check(long count, long most) {
      if (count < 0 || count > most) {
        throw new DamagedException(
            "A page of a data file says that it has %d values in %d bytes.".formatted(count, most));
      }
    }

    /** The bytes behind the levels. */
    private ByteBuffer values(DataPage page) throws IOException {
      if (page instanceof DataPageV2 v2) {
        return heap(v2.getData());
      }
      ByteBuffer bytes = heap(((DataPageV1) page).getBytes());
      for (int level : new int[] {column.getMaxRepetitionLevel(), column.getMaxDefinitionLevel()}) {
        if (level > 0) {
          check(LENGTH_BYTES, bytes.remaining());
          int length = bytes.getInt();
          check(length, bytes.remaining());
          bytes.position(bytes.position() + length);
        }
      }
      return bytes;
    }

    private static ByteBuffer heap(BytesInput bytes) throws IOException {
      return Codecs.heap(bytes).duplicate().order(ByteOrder.LITTLE_ENDIAN);
    }

    /** The first header of a delta encoding tells sizes: of blocks, of their parts, of values. */
    private static void checkStagedChanges(ByteBuffer values, int count) {
      if (count == 0) {
        return;
      }
      long block = varint(values);
      long parts = varint(values);
      long all = varint(values);
      check(block, 1 << 16);
      check(parts, block);
      check(all, count);
      if (parts == 0 || block % parts != 0) {
        throw new DamagedException("A page of a data file has deltas in blocks of no size.");
      }
    }

    private static long varint(ByteBuffer bytes) {
      long value = 0;
      for (int shift = 0; shift < 35 && bytes.hasRemaining(); shift += 7) {
        int next = bytes.get();
        value |= (next & 0x7fL) << shift;
        if (next >= 0) {
          return value;
        }
      }
      return -1;
    }
  }
}
