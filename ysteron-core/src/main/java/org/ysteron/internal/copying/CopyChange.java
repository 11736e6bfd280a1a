package org.ysteron.internal.copying;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageSet;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.Reach;

/**
 * Copies what a table needs of old entries, or of its old objects of pages, into new ones, in a
 * commit that leaves the version as it is. Each page that is still needed, in whatever kept
 * version, is copied once. Leaves are copied ahead, outside of the commit, when they are many: a
 * commit that meets another one makes the pages above them again only, and a leaf that the other
 * one replaced is not used. For one thread.
 */
final class CopyChange implements Change {
  private static final long AHEAD = 256 << 10;
  private static final long OBJECT = 8 << 20;

  private static volatile boolean copiesAllAhead;

  /** Has all leaves copied ahead, each in an object of its own, for tests. */
  static void copyAllAhead(boolean always) {
    copiesAllAhead = always;
  }

  private final LakeCore core;
  private final UUID id;
  private final long floor;
  private final long pagesFrom;
  private final long start;
  private final Map<PageRef, PageRef> ahead = new HashMap<>();
  private boolean isPrepared;
  private long bytes;

  /**
   * A copying.
   *
   * @param floor entries below it are not to be referred to
   * @param pagesFrom nor objects of pages whose start is below this, which is not above the
   *     horizon, so that nobody who has yet to commit has such objects
   * @param start the entry from which this started
   */
  CopyChange(LakeCore core, UUID id, long floor, long pagesFrom, long start) {
    this.core = core;
    this.id = id;
    this.floor = floor;
    this.pagesFrom = pagesFrom;
    this.start = start;
  }

  /** Is told what was copied before, by what it was copied from. */
  void know(Map<PageRef, PageRef> copied) {
    ahead.putAll(copied);
  }

  /** How many bytes were copied. */
  long bytes() {
    return bytes;
  }

  /** Whether a table needs entries below a floor. */
  static boolean needs(TableListing table, long floor) {
    return isOld(table.page(), floor, 0) || isOld(table.head(), floor, 0);
  }

  static boolean isOld(PageRef ref, long floor, long pagesFrom) {
    Reach reach = ref.reach();
    return reach.entry() < floor || reach.start() < pagesFrom;
  }

  private boolean isOld(PageRef ref) {
    return isOld(ref, floor, pagesFrom);
  }

  @Override
  public boolean isPrepared(LakeState base) {
    return isPrepared;
  }

  /** Copies leaves ahead, once. */
  @Override
  public void prepare(LakeState newest) {
    if (isPrepared) {
      return;
    }
    isPrepared = true;
    TableListing listing = newest.page().table(id, core.pages()).orElse(null);
    if (listing != null && leafBytes(listing) > (copiesAllAhead ? 0 : AHEAD)) {
      copyAhead(listing);
    }
  }

  /** How many bytes of leaves are to be copied; reads the pages above them only. */
  private long leafBytes(TableListing listing) {
    long[] sum = new long[1];
    PageSet seen = new PageSet();
    for (VersionPage page : versions(listing)) {
      PageCopies.eachLeaf(
          core.pages(),
          FileFormat.INSTANCE,
          page.files(),
          ref -> isOld(ref) && !ahead.containsKey(ref) && seen.add(ref),
          (ref, count) -> sum[0] += ref.length());
    }
    return sum[0];
  }

  private List<VersionPage> versions(TableListing listing) {
    PageStore pages = core.pages();
    List<VersionPage> versions = new ArrayList<>();
    if (isOld(listing.head())) {
      for (HistoryRecord record : TableHead.read(listing.head(), pages).records(pages)) {
        record
            .page()
            .filter(this::isOld)
            .ifPresent(ref -> versions.add(VersionPage.read(ref, pages)));
      }
    }
    if (isOld(listing.page())) {
      versions.add(VersionPage.read(listing.page(), pages));
    }
    return versions;
  }

  private void copyAhead(TableListing listing) {
    Ahead objects = new Ahead();
    versions(listing).forEach(page -> objects.copy(page.files()));
    objects.flush();
  }

  /** Leaves in objects of their own. */
  private final class Ahead {
    private final PageSet seen = new PageSet();
    private PageBatch batch = new PageBatch();
    private Map<PageRef, PageRef> made = new HashMap<>();

    void copy(PageTree.Root root) {
      PageCopies.eachLeaf(
          core.pages(),
          FileFormat.INSTANCE,
          root,
          ref -> isOld(ref) && !ahead.containsKey(ref) && seen.add(ref),
          (ref, count) -> {
            PageCopies copies =
                new PageCopies(core.pages(), CopyChange.this::isOld, ahead, batch, made);
            copies.leaf(FileFormat.INSTANCE, ref, count, copies::plain);
            if (batch.size() > (copiesAllAhead ? 0 : OBJECT)) {
              flush();
            }
          });
    }

    void flush() {
      if (batch.size() > 0) {
        batch.store(core.store(), PageHome.tablePages(id, start, UUID.randomUUID()));
        batch.home().release();
        ahead.putAll(made);
        bytes += batch.size();
      }
      batch = new PageBatch();
      made = new HashMap<>();
    }
  }

  @Override
  public void apply(Staging staging) {
    TableListing listing = staging.table(id).orElseThrow(NothingToDo::new);
    if (!isOld(listing.page()) && !isOld(listing.head())) {
      throw new NothingToDo();
    }
    LeftObjects left = new LeftObjects(PageHome.directory(id), pagesFrom);
    PageCopies copies =
        new PageCopies(staging.pages(), left.of(this::isOld), ahead, staging.batch(id));
    PageRef page = TableHead.copyOfVersion(listing.page(), copies);
    PageRef head =
        copies.copy(
            listing.head(),
            () ->
                TableHead.read(listing.head(), staging.pages())
                    .copied(copies)
                    .write(staging.batch(id)));
    staging.replace(
        listing.with(page, head).withPagesFrom(Math.max(listing.pagesFrom(), pagesFrom)));
    List<Edit<FreeObject>> freed = left.freed(staging, core.store());
    staging.edit(
        LakeFeature.EXPIRY,
        (lake, own) -> lake.with(lake.upkeep().withFree(freed, staging.pages(), own)));
    bytes += copies.bytes();
  }
}
