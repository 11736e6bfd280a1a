package org.ysteron.internal.merge;

import java.util.Arrays;
import org.roaringbitmap.RoaringBitmap;

/**
 * Which rows of the table match which row of the source: 24 bytes each. For one thread; read after
 * {@link #sort()}.
 */
final class Matches {
  private int[] rows = new int[64];
  private int[] files = new int[64];
  private int[] positions = new int[64];
  private long[] serials = new long[64];
  private long[] order = new long[0];
  private int size;

  void add(int row, int file, int position, long serial) {
    if (size == rows.length) {
      int more = size * 2;
      rows = Arrays.copyOf(rows, more);
      files = Arrays.copyOf(files, more);
      positions = Arrays.copyOf(positions, more);
      serials = Arrays.copyOf(serials, more);
    }
    rows[size] = row;
    files[size] = file;
    positions[size] = position;
    serials[size++] = serial;
  }

  void addAll(Matches others) {
    for (int i = 0; i < others.size; i++) {
      add(others.rows[i], others.files[i], others.positions[i], others.serials[i]);
    }
  }

  int size() {
    return size;
  }

  /** Puts them into the order of the source's rows. */
  void sort() {
    order = new long[size];
    for (int i = 0; i < size; i++) {
      order[i] = (long) rows[i] << 32 | i;
    }
    Arrays.sort(order);
  }

  /** The first match, in that order, of a source row or a later one. */
  int from(long row) {
    int at = Arrays.binarySearch(order, row << 32);
    return at >= 0 ? at : -at - 1;
  }

  int row(int at) {
    return (int) (order[at] >>> 32);
  }

  int file(int at) {
    return files[(int) order[at]];
  }

  int position(int at) {
    return positions[(int) order[at]];
  }

  long serial(int at) {
    return serials[(int) order[at]];
  }

  /** The positions in each file of the matches from one on to before another. */
  RoaringBitmap[] positions(int from, int to, int fileCount) {
    RoaringBitmap[] found = new RoaringBitmap[fileCount];
    for (int at = from; at < to; at++) {
      int file = file(at);
      found[file] = found[file] == null ? new RoaringBitmap() : found[file];
      found[file].add(position(at));
    }
    return found;
  }
}
