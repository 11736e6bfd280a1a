package org.ysteron.internal.bytes;

import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;

/** SHA-256 (FIPS 180-4). */
public final class Sha256 {
  private Sha256() {}

  /** The hash of some bytes. */
  public static byte[] of(byte[] bytes) {
    return digest().digest(bytes);
  }

  /** Starts a hash. */
  public static MessageDigest digest() {
    try {
      return MessageDigest.getInstance("SHA-256");
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }

  /** Whether bytes have a hash. */
  public static boolean is(byte[] content, byte[] hash) {
    return MessageDigest.isEqual(of(content), hash);
  }
}
