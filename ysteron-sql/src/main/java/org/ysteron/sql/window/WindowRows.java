package org.ysteron.sql.window;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.HashMap;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.internal.compute.Held;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Pages;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;

/**
 * The rows of a window in its order, by their places from 0 on: one page in memory, or pages in
 * files of which the last used ones are in memory. For one thread.
 */
final class WindowRows implements AutoCloseable {
  private static final int PAGES_IN_MEMORY = 8;
  private static final int SHARE_OF_PAGE = 16 * PAGES_IN_MEMORY;
  private static final int MOST_ROWS = 1 << 16;
  private static final int SLICE = 256;
  private static final String WHAT = "window functions";

  private final BitSet partitions = new BitSet();
  private final BitSet peers = new BitSet();
  private final Map<Integer, Page> inMemory = new LinkedHashMap<>(16, 0.75f, true);
  private final Running running;
  private final @Nullable Pages files;
  private int[] starts = {0};
  private int size;
  private @Nullable Page last;

  /** Some rows that are next to each other in the order. */
  static final class Page {
    private final int number;
    private final int from;
    private final int to;
    private final Batch rows;
    private final int @Nullable [] sorted;
    private final @Nullable Kept kept;
    private final Map<Object, Held[]> values = new HashMap<>();

    Page(int number, int from, int to, Batch rows, int @Nullable [] sorted, @Nullable Kept kept) {
      this.number = number;
      this.from = from;
      this.to = to;
      this.rows = rows;
      this.sorted = sorted;
      this.kept = kept;
    }

    boolean has(int place) {
      return place >= from && place < to;
    }

    int number() {
      return number;
    }

    /** The place of its first row. */
    int from() {
      return from;
    }

    /** The place behind its last row. */
    int to() {
      return to;
    }

    Batch rows() {
      return rows;
    }

    Vector vector(int column) {
      return rows.vectors().get(column);
    }

    /** The position of a place in the batch. */
    int row(int place) {
      return sorted == null ? place - from : sorted[place];
    }

    /** The positions of places in the batch. */
    int[] rows(int start, int end) {
      return sorted == null
          ? Selected.between(start - from, end - from)
          : Arrays.copyOfRange(sorted, start, end);
    }

    /** What was computed of the page for someone. */
    Map<Object, Held[]> values() {
      return values;
    }
  }

  /** Rows in memory. */
  WindowRows(Batch rows, Window window, Running running) {
    this.running = running;
    this.files = null;
    this.size = rows.size();
    List<Ordering.Order> orders = window.allOrders();
    int[] sorted = Ordering.sorted(rows, orders, running);
    set(partitions, 0, Ordering.changes(rows, window.keyOrders(), sorted));
    set(peers, 0, Ordering.changes(rows, orders, sorted));
    this.last = new Page(0, 0, size, rows, sorted, null);
  }

  /** Puts rows, which come in the order of the window, away in files. */
  WindowRows(Source<SelectedBatch> rows, Schema columns, Window window, Running running) {
    this.running = running.keeping(WHAT);
    this.files = new Pages(columns, running, WHAT);
    try {
      read(rows, columns, window);
    } catch (RuntimeException | Error e) {
      close();
      throw e;
    }
  }

  private void read(Source<SelectedBatch> rows, Schema columns, Window window) {
    Kept kept = new Kept(columns, running, WHAT);
    Optional<Batch> before = Optional.empty();
    long most = running.share(SHARE_OF_PAGE);
    try {
      for (Optional<SelectedBatch> more = rows.next(); more.isPresent(); more = rows.next()) {
        int[] at = Selected.rows(more.get());
        for (int from = 0; from < more.get().count(); from += SLICE) {
          int to = Math.min(more.get().count(), from + SLICE);
          kept.add(
              new SelectedBatch(more.get().batch(), Arrays.copyOfRange(at, from, to), to - from));
          if (kept.bytes() > most || kept.rows() > MOST_ROWS) {
            before = Optional.of(putAway(kept, before, window));
            kept = new Kept(columns, running, WHAT);
          }
        }
      }
      if (kept.rows() > 0) {
        putAway(kept, before, window);
      }
    } finally {
      kept.release();
    }
  }

  /** Returns the last row of the page. */
  private Batch putAway(Kept kept, Optional<Batch> before, Window window) {
    Batch page = kept.all();
    int count = page.size();
    pages().add(page);
    kept.release();
    running.take(count / 4);
    set(partitions, size, changes(page, before, window.keyOrders()));
    set(peers, size, changes(page, before, window.allOrders()));
    starts = Arrays.copyOf(starts, pages().count() + 1);
    size = Math.addExact(size, count);
    starts[pages().count()] = size;
    return Gather.rows(page, new int[] {count - 1});
  }

  private static boolean[] changes(
      Batch page, Optional<Batch> before, List<Ordering.Order> orders) {
    boolean[] changes = Ordering.changes(page, orders, Selected.between(0, page.size()));
    changes[0] = before.isEmpty() || Ordering.compare(before.get(), 0, page, 0, orders) != 0;
    return changes;
  }

  private static void set(BitSet bits, int from, boolean[] changes) {
    for (int i = 0; i < changes.length; i++) {
      if (changes[i]) {
        bits.set(from + i);
      }
    }
  }

  private Pages pages() {
    return Objects.requireNonNull(files);
  }

  int size() {
    return size;
  }

  /** How many pages there are. */
  int pageCount() {
    return files == null ? 1 : files.count();
  }

  boolean areInFiles() {
    return files != null;
  }

  /** A page by its number. */
  Page numbered(int number) {
    return page(starts[number]);
  }

  /** The page of a place. */
  Page page(int place) {
    Page page = last;
    if (page == null || (files != null && !page.has(place))) {
      int found = Arrays.binarySearch(starts, place);
      page = load(found >= 0 ? found : -found - 2);
      last = page;
    }
    return page;
  }

  private Page load(int number) {
    Page known = inMemory.get(number);
    if (known != null) {
      return known;
    }
    if (inMemory.size() == PAGES_IN_MEMORY) {
      Iterator<Page> oldest = inMemory.values().iterator();
      release(oldest.next());
      oldest.remove();
    }
    Kept kept = pages().read(number);
    Page page = new Page(number, starts[number], starts[number + 1], kept.all(), null, kept);
    inMemory.put(number, page);
    return page;
  }

  private static void release(Page page) {
    if (page.kept != null) {
      page.kept.release();
    }
  }

  /** The first place of the partition of a place. */
  int partition(int place) {
    return partitions.previousSetBit(place);
  }

  /** The place behind the partition of a place. */
  int behindPartition(int place) {
    return orSize(partitions.nextSetBit(place + 1));
  }

  /** The first place of the rows that are equal in the order to that of a place. */
  int peers(int place) {
    return peers.previousSetBit(place);
  }

  /** The place behind the rows that are equal in the order to that of a place. */
  int behindPeers(int place) {
    return orSize(peers.nextSetBit(place + 1));
  }

  private int orSize(int place) {
    return place < 0 ? size : place;
  }

  /** The positions that places have in memory. */
  int[] sorted() {
    return page(0).rows(0, size);
  }

  @Override
  public void close() {
    new ArrayList<>(inMemory.values()).forEach(WindowRows::release);
    inMemory.clear();
    last = null;
    running.release();
    if (files != null) {
      files.close();
    }
  }
}
