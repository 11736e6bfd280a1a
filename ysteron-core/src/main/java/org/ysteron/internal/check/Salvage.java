package org.ysteron.internal.check;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.NavigableSet;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Consumer;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.lake.ExpiredRun;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeWalk;
import org.ysteron.internal.work.Workers;

/**
 * What of a table can still be read: the versions all of whose pages can, and what its head tells,
 * leaf by leaf. For one thread.
 */
final class Salvage {
  private final PageStore pages;
  private final Workers workers;
  private final Set<PageRef> good = new HashSet<>();
  private final List<HistoryRecord> records = new ArrayList<>();
  private final List<WriterRecord> writers = new ArrayList<>();
  private List<ExpiredRun> expired = List.of();
  private Map<String, Object> others = Map.of();
  private VersionPage newest;
  private Rest rest;
  private final NavigableSet<Long> lost = new TreeSet<>();
  private boolean isTorn;
  private final Set<PageRef> lostStatistics = new HashSet<>();
  private boolean lacksWriters;

  private Salvage(PageStore pages, Workers workers) {
    this.pages = pages;
    this.workers = workers;
  }

  /**
   * Of a table.
   *
   * @param pages which remember nothing that was read before
   */
  static Salvage of(TableListing listing, PageStore pages, Workers workers) {
    Salvage salvage = new Salvage(pages, workers);
    salvage.newest = salvage.version(listing.page()).orElse(null);
    if (salvage.newest == null) {
      salvage.lost.add(listing.version());
      salvage.rest = salvage.rest(listing.page()).orElse(null);
    }
    salvage.head(listing);
    return salvage;
  }

  /** A version, when all of it can be read. */
  static Optional<VersionPage> whole(PageRef page, PageStore pages) {
    return new Salvage(pages, null).version(page);
  }

  private Optional<VersionPage> version(PageRef ref) {
    Whole whole = new Whole();
    try {
      new TableWalk(pages, whole).throughVersion(ref);
      good.addAll(whole.entered);
      return Optional.of(VersionPage.read(ref, pages));
    } catch (DamagedException | ExpiredException e) {
      return Optional.empty();
    }
  }

  /** Reads all pages of a version but those that are known to be good; statistics may be lost. */
  private final class Whole implements TableWalk.Visitor {
    private final Set<PageRef> entered = new HashSet<>();
    private Optional<PageRef> statistics = Optional.empty();

    @Override
    public boolean page(PageRef ref) {
      entered.add(ref);
      return !good.contains(ref);
    }

    @Override
    public void version(VersionPage version) {
      statistics = version.statistics();
    }

    @Override
    public void plain(PageRef ref) {
      try {
        pages.read(ref);
      } catch (DamagedException | ExpiredException e) {
        if (!statistics.equals(Optional.of(ref))) {
          throw e;
        }
        lostStatistics.add(ref);
      }
    }
  }

  /** A version without its statistics when they are lost. */
  VersionPage readable(VersionPage version) {
    return version.statistics().filter(lostStatistics::contains).isPresent()
        ? version.redacted(version.files(), version.record())
        : version;
  }

  /** Whether statistics of some version are lost. */
  boolean lacksStatistics() {
    return !lostStatistics.isEmpty();
  }

  /** What is left of a version that cannot be read as a whole, when its form can. */
  private Optional<Rest> rest(PageRef ref) {
    try {
      VersionPage page = VersionPage.read(ref, pages);
      page.formsBefore(pages);
      page.layouts(pages);
      List<FileEntry> files = new ArrayList<>();
      // A file whose mask is lost stays: what is to become of it is decided with the lost files.
      read(page.fileTree(pages), files::add, () -> {});
      return Optional.of(new Rest(page, files));
    } catch (DamagedException | ExpiredException e) {
      return Optional.empty();
    }
  }

  /**
   * A version some of whose pages of files are lost.
   *
   * @param page the version
   * @param files those that it is still known to have
   */
  record Rest(VersionPage page, List<FileEntry> files) {
    /** How many rows it still has. */
    long rows() {
      return files.stream().mapToLong(FileEntry::liveRows).sum();
    }
  }

  private void head(TableListing listing) {
    try {
      TableHead head = TableHead.read(listing.head(), pages);
      expired = head.expired();
      others = head.others();
      List<HistoryRecord> told = new ArrayList<>();
      read(head.historyTree(pages), told::add, () -> isTorn = true);
      read(head.writerTree(pages), writers::add, () -> lacksWriters = true);
      for (HistoryRecord record : told) {
        if (record.page().flatMap(this::version).isPresent()) {
          records.add(record);
        } else {
          lost.add(record.version());
        }
      }
    } catch (DamagedException | ExpiredException e) {
      isTorn = true;
    }
  }

  private <V, S> void read(PageTree<V, S> tree, Consumer<V> value, Runnable lost) {
    new TreeWalk<>(
            pages,
            tree.format(),
            page -> true,
            found -> found.forEach(value),
            Optional.of(new Around(lost)))
        .through(tree.root());
  }

  /** Goes on behind what cannot be read. */
  private final class Around implements TreeWalk.Inspection {
    private final Runnable lost;

    Around(Runnable lost) {
      this.lost = lost;
    }

    @Override
    public void unreadable(PageRef page, RuntimeException why) {
      lost.run();
    }

    @Override
    public void contradiction(PageRef page, String what) {
      // told by a check
    }

    @Override
    public boolean isClose() {
      return false;
    }

    @Override
    public Workers workers() {
      return workers;
    }
  }

  /** Whether numbers of named writers are lost. */
  boolean lacksWriters() {
    return lacksWriters || isTorn;
  }

  /** Whether nothing is lost. */
  boolean isWhole() {
    return lost.isEmpty() && !isTorn && !lacksWriters && lostStatistics.isEmpty();
  }

  /** The versions of which it is known that they were there and cannot be read. */
  NavigableSet<Long> lost() {
    return lost;
  }

  /** Whether others may have been there of which nothing is known any more. */
  boolean isTorn() {
    return isTorn;
  }

  /** The newest version; empty when it cannot be read. */
  Optional<VersionPage> newest() {
    return Optional.ofNullable(newest);
  }

  /** What is left of the newest version; empty when all of it is there, or nothing. */
  Optional<Rest> rest() {
    return Optional.ofNullable(rest);
  }

  /** The versions before it that can be read, in their order. */
  List<HistoryRecord> records() {
    return records;
  }

  List<WriterRecord> writers() {
    return writers;
  }

  List<ExpiredRun> expired() {
    return expired;
  }

  /** Members of the head that a later program put there. */
  Map<String, Object> others() {
    return others;
  }
}
