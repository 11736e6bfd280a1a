package org.ysteron.internal.tree;

import java.util.function.Supplier;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.text.Reason;

/**
 * Where a page stands, which its references to pages of the same object are relative to.
 *
 * @param home the object
 * @param offset its first byte, counted as the home counts
 */
public record PagePlace(PageHome home, long offset) {

  /** Decodes a part of the page; what goes wrong in that is damage. */
  <T> T guarded(Supplier<T> decoding) {
    try {
      return decoding.get();
    } catch (RuntimeException e) {
      throw unreadable(e);
    }
  }

  /**
   * What to throw for a failure of decoding: damage, unless another page was to be read for it and
   * could not be, for a reason that lies elsewhere.
   */
  RuntimeException unreadable(RuntimeException cause) {
    boolean decoding =
        !(cause instanceof YsteronException)
            || cause instanceof DamagedException
            || cause instanceof InvalidInputException
            || cause instanceof NotFoundException;
    if (!decoding) {
      return cause;
    }
    String what = Reason.of(cause);
    return DamagedException.of(
        home.toString(),
        "A page in %s cannot be read: %s Restore it from a copy of the lake."
            .formatted(home, what.endsWith(".") ? what : what + "."),
        cause);
  }
}
