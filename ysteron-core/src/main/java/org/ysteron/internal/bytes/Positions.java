package org.ysteron.internal.bytes;

import java.nio.ByteBuffer;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.buffer.ImmutableRoaringBitmap;
import org.ysteron.error.DamagedException;

/**
 * Positions of rows as a <a href="https://github.com/RoaringBitmap/RoaringFormatSpec">Roaring
 * bitmap in the portable format</a>.
 */
public final class Positions {
  private Positions() {}

  /** As bytes, in the shortest form. */
  public static byte[] write(RoaringBitmap positions) {
    RoaringBitmap small = positions.clone();
    small.runOptimize();
    ByteBuffer bytes = ByteBuffer.allocate(small.serializedSizeInBytes());
    small.serialize(bytes);
    return bytes.array();
  }

  /**
   * Reads what {@link #write} wrote.
   *
   * @throws DamagedException when it is no bitmap
   */
  public static RoaringBitmap read(byte[] bytes) {
    try {
      RoaringBitmap positions =
          new ImmutableRoaringBitmap(ByteBuffer.wrap(bytes)).toRoaringBitmap();
      if (!positions.validate()) {
        throw new DamagedException("A row mask is no bitmap.");
      }
      return positions;
    } catch (DamagedException e) {
      throw e;
    } catch (RuntimeException e) {
      throw new DamagedException("A row mask cannot be read: " + e.getMessage(), e);
    }
  }
}
