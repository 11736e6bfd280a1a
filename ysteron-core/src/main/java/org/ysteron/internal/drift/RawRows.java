package org.ysteron.internal.drift;

import com.github.luben.zstd.ZstdInputStream;
import com.github.luben.zstd.ZstdOutputStream;
import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.work.StoreFailures;

/**
 * Rows as they came, in their order, to be read once more when all are there. The first ones stay
 * in memory, compressed; when those are many, all go to a temporary file, which is gone when this
 * is closed. For one thread.
 */
final class RawRows implements AutoCloseable {
  private static final int MOST_IN_MEMORY = 1 << 20;
  private static final int BUFFER = 1 << 16;
  private static final int LEVEL = 1;

  private final RawValues values = new RawValues();
  private final Spill spill;
  private final ByteOut row = new ByteOut();
  private DataOutputStream out;
  private long rows;

  /** {@code temporary}: the directory for temporary files. */
  RawRows(Path temporary) {
    this.spill = new Spill(temporary);
  }

  /** Takes rows. */
  @FunctionalInterface
  interface Visitor {
    /**
     * A row.
     *
     * @param number as it was given with the row
     */
    void row(long number, Object row);
  }

  /**
   * Writes down a row, which does not count before it is {@linkplain #add added}.
   *
   * @throws org.ysteron.error.InvalidInputException when a value of it is none of ours
   */
  void prepare(long number, Object given) {
    values.write(given, row.clear().varint(number));
  }

  /** Adds the row that was prepared last. */
  void add() {
    try {
      if (out == null) {
        OutputStream packed = new ZstdOutputStream(spill, LEVEL);
        out = new DataOutputStream(new BufferedOutputStream(packed, BUFFER));
      }
      byte[] bytes = row.toByteArray();
      out.writeInt(bytes.length);
      out.write(bytes);
      rows++;
    } catch (IOException e) {
      throw failed(e);
    }
  }

  long rows() {
    return rows;
  }

  /** About the bytes that they take, compressed. */
  long bytes() {
    return spill.written;
  }

  /** Visits all rows; none can be added afterwards. */
  void forEach(Visitor visitor) {
    if (rows == 0) {
      return;
    }
    try {
      out.close(); // which is of no effect when it is closed
      try (DataInputStream in =
          new DataInputStream(new BufferedInputStream(new ZstdInputStream(spill.read()), BUFFER))) {
        for (long i = 0; i < rows; i++) {
          ByteIn bytes = new ByteIn(in.readNBytes(in.readInt()));
          visitor.row(bytes.varint(), values.read(bytes));
        }
      }
    } catch (IOException e) {
      throw failed(e);
    }
  }

  private YsteronException failed(IOException e) {
    return new YsteronException(
        "Rows that wait until all are read cannot be written to a temporary file: %s. Make room in %s, or name another directory with -Djava.io.tmpdir or in the lake's options."
            .formatted(e.getMessage(), spill.temporary),
        e);
  }

  @Override
  public void close() {
    try {
      if (out != null) {
        out.close();
      }
      spill.delete();
    } catch (IOException e) {
      StoreFailures.log(String.valueOf(spill.file), new YsteronException(e.toString(), e));
    }
  }

  /** Bytes in memory as long as they are few. */
  private static final class Spill extends OutputStream {
    private final Path temporary;
    private ByteArrayOutputStream memory = new ByteArrayOutputStream();
    private OutputStream disk;
    private Path file;
    private long written;

    Spill(Path temporary) {
      this.temporary = temporary;
    }

    @Override
    public void write(int b) throws IOException {
      write(new byte[] {(byte) b}, 0, 1);
    }

    @Override
    public void write(byte[] bytes, int start, int length) throws IOException {
      written += length;
      if (disk == null && memory.size() + length > MOST_IN_MEMORY) {
        file = Files.createTempFile(temporary, "ysteron-rows-", ".zst");
        disk = Files.newOutputStream(file);
        memory.writeTo(disk);
        memory = null;
      }
      if (disk == null) {
        memory.write(bytes, start, length);
      } else {
        disk.write(bytes, start, length);
      }
    }

    @Override
    public void close() throws IOException {
      if (disk != null) {
        disk.close();
      }
    }

    InputStream read() throws IOException {
      return file == null
          ? new ByteArrayInputStream(memory.toByteArray())
          : Files.newInputStream(file);
    }

    void delete() throws IOException {
      if (file != null) {
        Files.deleteIfExists(file);
      }
    }
  }
}
