package org.ysteron.cli;

import java.io.IOException;
import java.io.InputStream;
import java.io.InterruptedIOException;
import java.util.Arrays;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.TimeUnit;
import org.ysteron.error.CancelledException;

/**
 * Standard input that Ctrl-C ends while nothing comes: another thread reads it, since a read that
 * waits for input cannot be ended. For one thread.
 */
final class StandardInput extends InputStream {
  private static final int CHUNK_BYTES = 1 << 16;
  private static final int CHUNKS = 16;
  private static final long LOOK_MILLIS = 100;

  private final BlockingQueue<Chunk> chunks = new ArrayBlockingQueue<>(CHUNKS);
  private byte[] current = new byte[0];
  private int position;
  private boolean ended;

  /** Bytes that were read; none at the end, or when reading failed. */
  @SuppressWarnings("ArrayRecordComponent")
  private record Chunk(byte[] bytes, IOException failure) {}

  /** Starts to read. */
  StandardInput(InputStream source) {
    Thread reader = new Thread(() -> copy(source), "standard-input");
    reader.setDaemon(true);
    reader.start();
  }

  private void copy(InputStream source) {
    try {
      byte[] buffer = new byte[CHUNK_BYTES];
      for (int read = source.read(buffer); read >= 0; read = source.read(buffer)) {
        if (read > 0) {
          chunks.put(new Chunk(Arrays.copyOf(buffer, read), null));
        }
      }
      chunks.put(new Chunk(new byte[0], null));
    } catch (IOException e) {
      tell(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private void tell(IOException failure) {
    try {
      chunks.put(new Chunk(new byte[0], failure));
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  @Override
  public int read() throws IOException {
    byte[] one = new byte[1];
    return read(one, 0, 1) < 0 ? -1 : one[0] & 0xff;
  }

  @Override
  public int read(byte[] target, int start, int length) throws IOException {
    if (length == 0) {
      return 0;
    }
    if (position == current.length && !ended) {
      take();
    }
    if (position == current.length) {
      return -1;
    }
    int count = Math.min(length, current.length - position);
    System.arraycopy(current, position, target, start, count);
    position += count;
    return count;
  }

  private void take() throws IOException {
    try {
      Chunk next = chunks.poll(LOOK_MILLIS, TimeUnit.MILLISECONDS);
      while (next == null) {
        if (Interruption.isRequested()) {
          throw new CancelledException(-1);
        }
        next = chunks.poll(LOOK_MILLIS, TimeUnit.MILLISECONDS);
      }
      if (next.failure != null) {
        throw next.failure;
      }
      current = next.bytes;
      position = 0;
      ended = current.length == 0;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new InterruptedIOException("interrupted");
    }
  }
}
