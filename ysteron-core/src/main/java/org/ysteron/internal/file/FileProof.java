package org.ysteron.internal.file;

import java.nio.ByteBuffer;
import java.security.MessageDigest;
import java.util.HexFormat;
import java.util.UUID;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/** Looks whether a data file is what its table knows of it. Thread-safe. */
public final class FileProof {
  private static final int PIECE = 1 << 20;

  private FileProof() {}

  /**
   * That it is there, has its size, its footer is whole, and it has its rows where that says.
   *
   * @return bytes that were read
   * @throws DamagedException when it is not so
   */
  public static long footer(ObjectStore store, DataFile file, UUID table) {
    try (ObjectInput input = Footer.open(store, file)) {
      Footer.read(input, file, table);
      return file.footerLength();
    }
  }

  /**
   * That every byte of it is what was written.
   *
   * @param hash the SHA-256 of all of it, in hexadecimal digits
   * @return bytes that were read
   * @throws DamagedException when it is not so
   */
  public static long bytes(ObjectStore store, DataFile file, UUID table, String hash) {
    try (ObjectInput input = Footer.open(store, file)) {
      MessageDigest sum = Sha256.digest();
      byte[] piece = new byte[(int) Math.min(PIECE, file.size())];
      for (long at = 0; at < file.size(); at += piece.length) {
        int length = (int) Math.min(piece.length, file.size() - at);
        input.readFully(at, ByteBuffer.wrap(piece, 0, length));
        sum.update(piece, 0, length);
      }
      String found = HexFormat.of().formatHex(sum.digest());
      if (!found.equals(hash)) {
        throw DamagedException.of(
            file.name(),
            "Data file %s is damaged: its SHA-256 is %s and not %s as expected. Restore it from a copy of the lake."
                .formatted(file.name(), found, hash),
            null);
      }
      Footer.read(input, file, table);
      return file.size() + file.footerLength();
    }
  }
}
