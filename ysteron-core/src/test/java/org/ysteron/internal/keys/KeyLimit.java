package org.ysteron.internal.keys;

/** As long as it is open, merges and updates have only so many keys in memory at once. */
public final class KeyLimit implements AutoCloseable {
  public KeyLimit(int keys) {
    KeyIndex.limitTo(keys);
  }

  @Override
  public void close() {
    KeyIndex.limitTo(0);
  }
}
