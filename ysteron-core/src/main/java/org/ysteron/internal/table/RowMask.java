package org.ysteron.internal.table;

import java.util.Arrays;
import java.util.Objects;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.bytes.Positions;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;

/**
 * The positions of the rows of a data file that no longer count, as a <a
 * href="https://github.com/RoaringBitmap/RoaringFormatSpec">Roaring bitmap in the portable
 * format</a>: inside the file's entry when small, else in a page of its own. Immutable,
 * thread-safe.
 */
public final class RowMask {
  private static final int LONGEST_INLINE = 256;
  private static volatile int longestInline = LONGEST_INLINE;
  private static final int INLINE = 0;
  private static final int PAGE = 1;

  private final byte[] inline;
  private final PageRef ref;

  private RowMask(byte[] inline, PageRef ref) {
    this.inline = inline;
    this.ref = ref;
  }

  /** Sets up to how many bytes masks have no page, so that tests reach one; -1 for what it is. */
  static void inlineUpTo(int bytes) {
    longestInline = bytes < 0 ? LONGEST_INLINE : bytes;
  }

  /** A mask of some positions, whose page, if it needs one, goes into a batch. */
  public static RowMask of(RoaringBitmap positions, PageBatch batch) {
    byte[] bytes = Positions.write(positions);
    return bytes.length <= longestInline
        ? new RowMask(bytes, null)
        : new RowMask(null, batch.add(bytes));
  }

  /** The positions; the caller's own. */
  public RoaringBitmap positions(PageStore pages) {
    return Positions.read(
        inline != null ? inline : pages.decoded(ref, byte[].class, (page, place) -> page));
  }

  void write(ByteOut out, PagePlace place) {
    if (inline != null) {
      out.u8(INLINE).sized(inline);
    } else {
      out.u8(PAGE);
      ref.write(out, place);
    }
  }

  /** The page it is in, when it is not in the entry. */
  Optional<PageRef> page() {
    return Optional.ofNullable(ref);
  }

  /** This mask with its page, if it has one, elsewhere. */
  RowMask moved(UnaryOperator<PageRef> change) {
    return ref == null ? this : new RowMask(null, change.apply(ref));
  }

  static RowMask read(ByteIn in, PagePlace place) {
    return in.u8() == INLINE
        ? new RowMask(in.sized(), null)
        : new RowMask(null, PageRef.read(in, place));
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof RowMask mask
        && Arrays.equals(inline, mask.inline)
        && (ref == null ? mask.ref == null : mask.ref != null && ref.sameContent(mask.ref));
  }

  @Override
  public int hashCode() {
    return inline != null ? Arrays.hashCode(inline) : Objects.hashCode(ref);
  }
}
