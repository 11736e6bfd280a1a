package org.ysteron.internal.file;

import java.io.ByteArrayOutputStream;
import java.security.MessageDigest;
import org.apache.parquet.io.OutputFile;
import org.apache.parquet.io.PositionOutputStream;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.store.ObjectOutput;

/**
 * The stream that the Parquet library writes a data file to. It sums blocks up to the footer, holds
 * the footer back until it is finished, and hashes the whole and, by itself, the footer. For one
 * thread.
 */
final class HashingOutput extends PositionOutputStream {
  private final ObjectOutput target;
  private final MessageDigest whole = Sha256.digest();
  private final MessageDigest footer = Sha256.digest();
  private final BlockChecksums.Builder blocks = new BlockChecksums.Builder();
  private BlockChecksums sums;
  private final ByteArrayOutputStream held = new ByteArrayOutputStream();
  private long footerStart = -1;

  HashingOutput(ObjectOutput target) {
    this.target = target;
  }

  @Override
  public long getPos() {
    return target.position() + held.size();
  }

  @Override
  public void write(int b) {
    if (footerStart >= 0) {
      held.write(b);
    } else {
      write(new byte[] {(byte) b}, 0, 1);
    }
  }

  @Override
  public void write(byte[] bytes, int start, int length) {
    if (footerStart >= 0) {
      held.write(bytes, start, length);
      return;
    }
    blocks.update(bytes, start, length);
    put(bytes, start, length);
  }

  private void put(byte[] bytes, int start, int length) {
    whole.update(bytes, start, length);
    try {
      target.write(bytes, start, length);
    } catch (java.io.IOException e) {
      throw new YsteronException("A data file could not be written: " + e.getMessage(), e);
    }
  }

  /** Says that the footer starts here, and returns the checksums of what is before it. */
  BlockChecksums startFooter() {
    if (sums == null) {
      footerStart = getPos();
      sums = blocks.build();
    }
    return sums;
  }

  /** The footer as the library has written it. */
  byte[] heldFooter() {
    return held.toByteArray();
  }

  /** Writes the footer as it is to be. */
  void endFooter(byte[] finished) {
    held.reset();
    footer.update(finished);
    put(finished, 0, finished.length);
  }

  /** Bytes of the footer without the length and the magic behind it. */
  long footerLength() {
    return getPos() - footerStart - 8;
  }

  byte[] footerHash() {
    return footer.digest();
  }

  byte[] hash() {
    return whole.digest();
  }

  /** The Parquet library closes its stream; the object is committed or given up by its owner. */
  @Override
  public void close() {}

  OutputFile asFile() {
    return new OutputFile() {
      @Override
      public PositionOutputStream create(long blockSizeHint) {
        return HashingOutput.this;
      }

      @Override
      public PositionOutputStream createOrOverwrite(long blockSizeHint) {
        return HashingOutput.this;
      }

      @Override
      public boolean supportsBlockSize() {
        return false;
      }

      @Override
      public long defaultBlockSize() {
        return 0;
      }
    };
  }
}
