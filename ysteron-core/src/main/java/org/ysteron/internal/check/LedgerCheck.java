package org.ysteron.internal.check;

import java.util.HashMap;
import java.util.Map;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.LedgerEntry;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.LakeWalk;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageSet;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.proof.Finding;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/**
 * Looks at each entry of the ledger from the floor on: that it can be read, follows from the one
 * before it, is the one that later ones remember, and, when every byte is looked at, that each page
 * in it is whole, also those that nothing needs any more. For one thread.
 */
final class LedgerCheck {
  private static final String FLOOR = "floor";

  private final LakeCore core;
  private final LakeState state;
  private final PageStore pages;
  private final Findings findings;
  private final Map<Long, String> remembered = new HashMap<>();
  private boolean knowsAll = true;
  private long entries;
  private long bytes;

  LedgerCheck(LakeCore core, LakeState state, PageStore pages, Findings findings) {
    this.core = core;
    this.state = state;
    this.pages = pages;
    this.findings = findings;
  }

  /** Is told what the newest state remembers of an entry. */
  void remember(EntryRecord record) {
    remembered.put(record.number(), record.hash());
  }

  /** Is told that what the newest state remembers could not be read as a whole. */
  void doesNotKnowAll() {
    knowsAll = false;
  }

  long entries() {
    return entries;
  }

  long bytes() {
    return bytes;
  }

  /** Looks at all; {@code isClose}: also at the pages in them. */
  void run(boolean isClose) {
    long floor = core.ledger().floor();
    LedgerEntry before = null;
    for (long number = floor; number <= state.number(); number++) {
      String name = core.ledger().nameOf(number);
      try {
        LedgerEntry entry = core.entry(number);
        entries++;
        bytes += entry.headLength();
        follows(before, entry, name);
        isRemembered(entry, name);
        if (isClose) {
          new OwnPages(entry).run();
        }
        if (number == floor) {
          floors(entry);
        }
        before = entry;
      } catch (DamagedException | ExpiredException e) {
        findings.unreadable(Finding.Kind.ENTRY, name, e, new Findings.OfLake());
        before = null;
      }
    }
  }

  /** Looks at what stands beside the entries: the floor, which names its entry by its hash. */
  private void floors(LedgerEntry oldest) {
    for (ObjectStore.Child child : core.store().list(FLOOR, "", Integer.MAX_VALUE)) {
      String name = FLOOR + "/" + child.segment();
      try {
        JsonObject line = JsonObject.parse(core.store().read(name));
        String is = line.text("ysteron");
        boolean isFloor = is.equals(FLOOR) && name.equals(nameOf(line.number("number")));
        boolean isOldest = isFloor && line.number("number") == oldest.number();
        if (isOldest && !line.text("hash").equals(oldest.hash())) {
          notWhatItIs(
              name, "It names an entry %d with another hash than the existing entry has.", oldest);
        } else if (!isFloor && !is.equals("restored")) {
          notWhatItIs(name, "It is neither a floor nor the mark of a restored lake.", oldest);
        }
      } catch (MissingObjectException e) {
        // a later floor has taken its place
      } catch (StoreException e) {
        throw e; // that the store does not answer is no damage
      } catch (RuntimeException e) {
        notWhatItIs(name, "It cannot be read as a floor.", oldest);
      }
    }
  }

  private static String nameOf(long floor) {
    return FLOOR + "/" + Numbering.flat(floor);
  }

  private void notWhatItIs(String name, String problem, LedgerEntry oldest) {
    if (isPromised(oldest.number())) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          name,
          problem.formatted(oldest.number()),
          new Findings.OfLake());
    }
  }

  private void follows(LedgerEntry before, LedgerEntry entry, String name) {
    boolean isOther = before != null && !before.hash().equals(entry.parent());
    if (isOther && isPromised(before.number())) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          name,
          "Its parent, entry %d, has another hash than the existing entry has."
              .formatted(before.number()),
          new Findings.OfLake());
    }
  }

  /** What has been let go meanwhile may be there again, as junk that a sleeper has made. */
  private boolean isPromised(long number) {
    return core.ledger().floor() <= number;
  }

  private void isRemembered(LedgerEntry entry, String name) {
    String hash = entry.number() == state.number() ? state.hash() : remembered.get(entry.number());
    boolean isKept = entry.number() >= state.page().upkeep().floor();
    boolean isOther = hash == null ? isKept && knowsAll : !hash.equals(entry.hash());
    if (isOther && isPromised(entry.number())) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          name,
          hash == null
              ? "The newest entry has no record of it."
              : "Its hash is not the one that the newest entry records for entry %d."
                  .formatted(entry.number()),
          new Findings.OfLake());
    }
  }

  /** The pages that an entry brought, found from its own lake page. */
  private final class OwnPages extends PageInspection {
    private final LedgerEntry entry;
    private final PageSet seen = new PageSet();

    OwnPages(LedgerEntry entry) {
      super(pages, core.workers(), findings);
      this.entry = entry;
    }

    void run() {
      if (!page(entry.page())) {
        return;
      }
      try {
        new LakeWalk(pages, this).through(LakePage.read(entry.page(), pages), entry.page());
      } catch (DamagedException | ExpiredException e) {
        unreadable(entry.page(), e);
      }
    }

    /** What lies elsewhere is another entry's, or needed no more. */
    @Override
    public boolean page(PageRef ref) {
      boolean isOwn =
          ref.home().kind() == PageHome.Kind.ENTRY && ref.home().number() == entry.number();
      if (isOwn && seen.add(ref)) {
        bytes += ref.length();
      }
      return isOwn;
    }

    @Override
    public void table(TableListing table) {
      new TableWalk(pages, this).through(table);
    }

    @Override
    public void contradiction(PageRef page, String what) {
      // What refers to it from now on is looked at elsewhere.
    }

    @Override
    public boolean isClose() {
      return false;
    }
  }
}
