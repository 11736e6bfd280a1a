package org.ysteron.sql.window;

import org.ysteron.sql.keep.Ordering;

/** The partition, the peers and the frame of one row after the other. For one thread. */
final class Frames {
  private final Window window;
  private final WindowRows rows;
  private int at = -1;
  private int from;
  private int to;
  private int firstPeer;
  private int behindPeers;
  private int lastStart;
  private int lastEnd;

  Frames(Window window, WindowRows rows) {
    this.window = window;
    this.rows = rows;
  }

  /** Goes to a row by its place. */
  void to(int place) {
    at = place;
    if (place < from || place >= to) {
      from = rows.partition(place);
      to = rows.behindPartition(place);
    }
    if (place < firstPeer || place >= behindPeers) {
      firstPeer = rows.peers(place);
      behindPeers = rows.behindPeers(place);
    }
  }

  /** The first place of the partition. */
  int from() {
    return from;
  }

  /** The place behind the partition. */
  int to() {
    return to;
  }

  /** The first row that is equal in the order. */
  int firstPeer() {
    return firstPeer;
  }

  /** The place behind the rows that are equal in the order. */
  int behindPeers() {
    return behindPeers;
  }

  /** The first place of the frame. */
  int start() {
    return switch (window.from().kind()) {
      case FIRST -> from;
      case LAST -> to;
      case CURRENT -> window.isRows() ? at : firstPeer;
      case BY_ROWS -> (int) Math.max(from, Math.min(to, at + window.from().distance()));
      case BY_VALUE -> {
        lastStart = byValue(window.from(), false, lastStart);
        yield lastStart;
      }
    };
  }

  /** The place behind the frame, which may be before its start when it has no rows. */
  int end() {
    return switch (window.to().kind()) {
      case FIRST -> from;
      case LAST -> to;
      case CURRENT -> window.isRows() ? at + 1 : behindPeers;
      case BY_ROWS -> (int) Math.max(from, Math.min(to, at + window.to().distance() + 1));
      case BY_VALUE -> {
        lastEnd = byValue(window.to(), true, lastEnd);
        yield lastEnd;
      }
    };
  }

  /**
   * The first row of the partition that is not before a value, or that is behind it. Looked for in
   * growing steps from where it was for the row before (Bentley and Yao, An almost optimal
   * algorithm for unbounded searching, 1976), so that near pages are read only.
   */
  private int byValue(Window.Bound bound, boolean behind, int before) {
    int hint = Math.max(from, Math.min(to, before));
    int low;
    int high;
    long step = 1;
    if (hint < to && isBefore(bound, behind, hint)) {
      low = hint + 1;
      high = low;
      while (high < to && isBefore(bound, behind, high)) {
        low = high + 1;
        high = (int) Math.min(to, high + step);
        step *= 2;
      }
    } else {
      high = hint;
      long probe = hint - 1L;
      while (probe >= from && !isBefore(bound, behind, (int) probe)) {
        high = (int) probe;
        probe -= step;
        step *= 2;
      }
      low = (int) Math.max(from, probe + 1);
    }
    while (low < high) {
      int middle = (low + high) >>> 1;
      if (isBefore(bound, behind, middle)) {
        low = middle + 1;
      } else {
        high = middle;
      }
    }
    return low;
  }

  private boolean isBefore(Window.Bound bound, boolean behind, int place) {
    WindowRows.Page here = rows.page(at);
    WindowRows.Page there = rows.page(place);
    int compared =
        Ordering.compare(
            there.vector((int) bound.distance()),
            there.row(place),
            here.vector(bound.end()),
            here.row(at),
            window.orders().get(0));
    return compared < 0 || (behind && compared == 0);
  }
}
