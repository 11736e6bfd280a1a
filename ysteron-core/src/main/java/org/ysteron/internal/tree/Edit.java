package org.ysteron.internal.tree;

import java.util.Optional;

/**
 * A change of one key: its new value, or its removal.
 *
 * @param key the key; compared as unsigned bytes
 * @param value the value, or empty to remove the key (which need not be there)
 */
@SuppressWarnings("ArrayRecordComponent") // keys are never written to
public record Edit<V>(byte[] key, Optional<V> value) {
  public static <V> Edit<V> put(byte[] key, V value) {
    return new Edit<>(key, Optional.of(value));
  }

  public static <V> Edit<V> remove(byte[] key) {
    return new Edit<>(key, Optional.empty());
  }
}
