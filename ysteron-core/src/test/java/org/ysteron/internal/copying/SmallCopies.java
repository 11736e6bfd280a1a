package org.ysteron.internal.copying;

/** As long as it is open, the least is worth copying, and leaves are copied ahead. */
public final class SmallCopies implements AutoCloseable {
  public SmallCopies(boolean isWorthAlways, boolean ahead) {
    CopyCosts.makeWorthAbove(isWorthAlways ? 1 : 0);
    CopyChange.copyAllAhead(ahead);
  }

  @Override
  public void close() {
    CopyCosts.makeWorthAbove(0);
    CopyChange.copyAllAhead(false);
  }
}
