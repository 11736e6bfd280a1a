package org.ysteron.internal.file;

import java.io.EOFException;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.HashSet;
import java.util.Set;
import org.apache.parquet.internal.hadoop.metadata.IndexReference;
import org.apache.parquet.io.InputFile;
import org.apache.parquet.io.SeekableInputStream;
import org.ysteron.error.DamagedException;
import org.ysteron.store.ObjectInput;

/**
 * The stream through which the Parquet library reads a data file: it hands out no byte of a block
 * whose checksum it has not compared. For one thread.
 */
final class VerifiedInput extends SeekableInputStream implements InputFile {
  private final String name;
  private final ObjectInput input;
  private final BlockChecksums sums;
  private final ByteBuffer edge = ByteBuffer.allocate(BlockChecksums.BLOCK);
  private final byte[] one = new byte[1];
  private long edgeBlock = -1;
  private final Set<Long> checked = new HashSet<>();
  private long position;
  private long bytesRead;

  VerifiedInput(String name, ObjectInput input, BlockChecksums sums) {
    this.name = name;
    this.input = input;
    this.sums = sums;
  }

  /** Bytes fetched from the store so far. */
  long bytesRead() {
    return bytesRead;
  }

  /** Refuses an index whose lengths are not those of its bytes, before the library reads it. */
  void check(IndexReference index) throws IOException {
    if (index != null && checked.add(index.getOffset())) {
      byte[] bytes = new byte[index.getLength()];
      seek(index.getOffset());
      readFully(bytes);
      ThriftLimits.check(bytes);
    }
  }

  @Override
  public long getLength() {
    return input.size();
  }

  @Override
  public SeekableInputStream newStream() {
    return this;
  }

  @Override
  public long getPos() {
    return position;
  }

  @Override
  public void seek(long newPosition) {
    position = newPosition;
  }

  @Override
  public int read() throws EOFException {
    readFully(one);
    return one[0] & 0xff;
  }

  @Override
  public int read(byte[] target, int start, int length) throws EOFException {
    if (position >= sums.coveredBytes()) {
      return -1;
    }
    int count = (int) Math.min(length, sums.coveredBytes() - position);
    readFully(target, start, count);
    return count;
  }

  @Override
  public int read(ByteBuffer target) throws EOFException {
    if (position >= sums.coveredBytes()) {
      return -1;
    }
    int count = (int) Math.min(target.remaining(), sums.coveredBytes() - position);
    int limit = target.limit();
    target.limit(target.position() + count);
    readFully(target);
    target.limit(limit);
    return count;
  }

  @Override
  public void readFully(byte[] target) throws EOFException {
    readFully(target, 0, target.length);
  }

  @Override
  public void readFully(byte[] target, int start, int length) throws EOFException {
    int inBlock = (int) (position % BlockChecksums.BLOCK);
    boolean isHere =
        position >= 0
            && position / BlockChecksums.BLOCK == edgeBlock
            && length <= sums.length(edgeBlock) - inBlock;
    if (isHere) { // most often a few bytes of an index, one after the other
      System.arraycopy(edge.array(), inBlock, target, start, length);
      position += length;
    } else {
      readFully(ByteBuffer.wrap(target, start, length));
    }
  }

  @Override
  public void readFully(ByteBuffer target) throws EOFException {
    if (position < 0 || position + target.remaining() > sums.coveredBytes()) {
      throw DamagedException.of(
          name,
          "Data file %s refers to byte %d, but its checksums cover only %d bytes."
              .formatted(name, position + target.remaining(), sums.coveredBytes()),
          null);
    }
    while (target.hasRemaining()) {
      long block = position / BlockChecksums.BLOCK;
      int inBlock = (int) (position % BlockChecksums.BLOCK);
      int length = sums.length(block);
      if (inBlock == 0 && target.remaining() >= length && block != edgeBlock) {
        int count = whole(target, block);
        position += count;
      } else {
        loadEdge(block, length);
        int count = Math.min(target.remaining(), length - inBlock);
        target.put(edge.array(), inBlock, count);
        position += count;
      }
    }
  }

  /** Reads as many whole blocks as fit straight into the target, then compares each. */
  private int whole(ByteBuffer target, long block) {
    int count = 0;
    long next = block;
    while (next * BlockChecksums.BLOCK < sums.coveredBytes()
        && count + sums.length(next) <= target.remaining()) {
      count += sums.length(next++);
    }
    int start = target.position();
    ByteBuffer part = target.slice(start, count);
    input.readFully(block * BlockChecksums.BLOCK, part);
    bytesRead += count;
    int at = 0;
    for (long b = block; b < next; b++) {
      compare(b, target.slice(start + at, sums.length(b)));
      at += sums.length(b);
    }
    target.position(start + count);
    return count;
  }

  private void loadEdge(long block, int length) {
    if (block == edgeBlock) {
      return;
    }
    edgeBlock = -1;
    input.readFully(block * BlockChecksums.BLOCK, edge.clear().slice(0, length));
    bytesRead += length;
    compare(block, edge.slice(0, length));
    edgeBlock = block;
  }

  private void compare(long block, ByteBuffer content) {
    if (!sums.matches(block, content)) {
      throw DamagedException.of(
          name,
          "Data file %s is damaged between bytes %d and %d: their CRC-32C differs from the one in the footer. Restore the file from a copy of the lake."
              .formatted(
                  name,
                  block * BlockChecksums.BLOCK,
                  block * BlockChecksums.BLOCK + sums.length(block)),
          null);
    }
  }

  @Override
  public void close() {
    input.close();
  }
}
