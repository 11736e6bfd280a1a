package org.ysteron.internal.commit;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.report.CommitStamp;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.ShortObjectException;

/**
 * Reads states from the ledger: list, then read the entry, then look at the floor; what is below
 * the floor is never believed, and before anything is called damage the floor is looked at. A state
 * that follows one that is known must have grown out of it. Thread-safe.
 */
final class LedgerReader {
  private static final int MOST_TRIES = 20;
  private static final int FIRST_READ = 1 << 16;

  private final ObjectStore store;
  private final Ledger ledger;
  private final PageStore pages;
  private final Set<String> known;

  /** The times that the lake was put back from a copy before what was seen of it was looked at. */
  private volatile Set<String> restorations = Set.of();

  LedgerReader(ObjectStore store, Ledger ledger, PageStore pages, Set<String> known) {
    this.store = store;
    this.ledger = ledger;
    this.pages = pages;
    this.known = known;
  }

  /**
   * The newest state.
   *
   * @param before the newest that was seen, or null
   * @throws WrongLakeException when what is there did not grow out of what was seen
   */
  LakeState newest(LakeState before) {
    long from = before == null ? -1 : before.number();
    for (int tries = 0; tries < MOST_TRIES; tries++) {
      long number = ledger.newest(from);
      if (number < 0 && before == null) {
        throw new NotFoundException(
            NotFoundException.Kind.LAKE,
            store.location(),
            "There is no lake in %s: it has no ledger. Create one, or check the path."
                .formatted(store.location()));
      }
      if (number < from || (number < 0 && before != null)) {
        throw gone(before);
      }
      try {
        if (before != null && number == before.number()) {
          Ledger.Marks marks = ledger.marks();
          if (marks.floor() <= number) {
            checkNotPutBack(marks, before);
            return before;
          }
        } else {
          EntryHead head = head(number);
          Ledger.Marks marks = ledger.marks();
          if (checkNotPutBack(marks, before)) {
            continue; // the entry may have been read before that
          }
          if (marks.floor() <= number) {
            LakeState state = state(head);
            checkLine(state, head, before);
            return state;
          }
        }
      } catch (ExpiredException e) {
        from = -1; // the floor rose while we read
        continue;
      }
      from = -1; // junk, or what is left below the floor
    }
    throw new DamagedException(
        "The ledger of %s has no entries from its floor %d on. Restore it from a copy of the lake."
            .formatted(store.location(), ledger.floor()));
  }

  private WrongLakeException gone(LakeState before) {
    return new WrongLakeException(
        store.location(),
        before.lakeId(),
        "Entry %d of lake %s is missing in %s: the lake was moved, replaced, or restored from an older copy. Nothing was changed; open the lake again at its location."
            .formatted(before.number(), before.lakeId(), store.location()));
  }

  /**
   * Whether the entry of a state that was seen is there as it was; false when it is below the
   * floor.
   *
   * @throws WrongLakeException when another one is there, or none
   * @throws DamagedException when what is there is no entry
   */
  boolean isThere(LakeState seen) {
    try {
      if (isAs(seen)) {
        return true;
      }
      head(seen.number()); // another entry, or damage
    } catch (MissingObjectException | ExpiredException e) {
      // trimmed, or gone
    } catch (DamagedException e) {
      if (ledger.exists(seen.number())) {
        throw e;
      }
      // another one was there, and was taken away between two looks
    }
    if (ledger.floor() > seen.number()) {
      return false;
    }
    throw gone(seen);
  }

  /**
   * When the lake was put back from a copy since it was looked at, what was seen of it must be in
   * that copy, too.
   *
   * @param seen null for nothing yet
   * @return whether it was put back
   * @throws WrongLakeException when what was seen is not there
   */
  boolean checkNotPutBack(Ledger.Marks marks, LakeState seen) {
    boolean isPutBack = !marks.restorations().equals(restorations);
    if (isPutBack) {
      if (seen != null) {
        isThere(seen);
      }
      restorations = marks.restorations();
    }
    return isPutBack;
  }

  private boolean isAs(LakeState seen) {
    try {
      byte[] lines = store.readRange(ledger.nameOf(seen.number()), 0, seen.headLength());
      return EntryHead.hex(Sha256.of(lines)).equals(seen.hash());
    } catch (ShortObjectException e) {
      return false;
    }
  }

  /**
   * A state must have grown out of the one that was seen before, and out of the entry before it.
   */
  private void checkLine(LakeState state, EntryHead head, LakeState before) {
    long number = state.number();
    if (before != null && !state.lakeId().equals(before.lakeId())) {
      throw new WrongLakeException(
          store.location(),
          before.lakeId(),
          "In %s there is now lake %s instead of lake %s. Nothing was changed; open the lake again at its location."
              .formatted(store.location(), state.lakeId(), before.lakeId()));
    }
    if (before != null && before.number() < number - 1) {
      Optional<EntryRecord> record = state.page().entry(before.number(), pages);
      boolean other = record.filter(r -> !r.hash().equals(before.hash())).isPresent();
      // A floor is set in the lake page, and records go, before the ledger says so.
      if (other || (record.isEmpty() && before.number() >= state.page().upkeep().floor())) {
        throw gone(before);
      }
    }
    if (number == 0 || (before == null && number <= ledger.floor())) {
      return;
    }
    if (before != null && before.number() == number - 1) {
      if (!before.hash().equals(head.parent())) {
        throw gone(before);
      }
      return;
    }
    String parent;
    try {
      parent = head(number - 1).sum().hash();
    } catch (ExpiredException e) {
      return;
    }
    // Below the floor there may be what a sleeper made.
    if (!parent.equals(head.parent()) && ledger.floor() < number) {
      throw new DamagedException(
          "The ledger of %s is damaged: the parent hash in entry %d does not match entry %d. Restore both from one copy of the lake."
              .formatted(store.location(), number, number - 1));
    }
  }

  /** The lines of an entry. */
  EntryHead head(long number) {
    int most = FIRST_READ;
    Ledger.Start start = ledger.read(number, most);
    while (start.bytes().length < start.size()
        && most < EntryHead.LONGEST
        && !EntryHead.isWhole(start.bytes())) {
      most *= 4; // most heads are short, and what is behind them may be long
      start = ledger.read(number, most);
    }
    return EntryHead.parse(start, number, ledger.nameOf(number), known);
  }

  private LakeState state(EntryHead head) {
    LakePage page = LakePage.read(head.page(), pages);
    if (!page.lakeId().equals(head.lakeId())) {
      throw new DamagedException(
          "Entry %d belongs to lake %s, but its page belongs to lake %s."
              .formatted(head.number(), head.lakeId(), page.lakeId()));
    }
    return new LakeState(
        EntryRecord.of(
            head.stamps(), head.sum().hash(), page.remembered(head.page()), head.isQuiet()),
        head.sum().length(),
        head.mustRead(),
        head.mustWrite(),
        page,
        head.page());
  }

  /**
   * The commits of the ledger from a state back, the newest first; each entry is checked, and its
   * link to the next.
   */
  List<CommitStamp> commits(LakeState from, int limit) {
    List<CommitStamp> commits = new ArrayList<>();
    String expected = from.hash();
    for (long n = from.number(); n >= 0 && commits.size() < limit; n--) {
      EntryHead head;
      try {
        head = head(n);
      } catch (ExpiredException e) {
        return commits;
      }
      if (!head.sum().hash().equals(expected)) {
        if (n < ledger.floor()) {
          return commits;
        }
        throw new DamagedException(
            "The ledger of %s is damaged: entry %d does not match the parent hash in entry %d."
                .formatted(store.location(), n, n + 1));
      }
      if (!hasPage(head, from)) {
        return commits;
      }
      expected = head.parent();
      List<CommitStamp> stamps = head.stamps();
      for (int i = stamps.size() - 1; i >= 0 && commits.size() < limit; i--) {
        commits.add(stamps.get(i));
      }
    }
    return commits;
  }

  /**
   * Reads the lake page of an entry, where it is now: it may have been copied since. That of an
   * entry below the floor may be gone before the entry itself is.
   */
  private boolean hasPage(EntryHead head, LakeState newest) {
    try {
      LakePage.read(head.page(), pages);
    } catch (ExpiredException e) {
      Optional<EntryRecord> record = newest.page().entry(head.number(), pages);
      if (record.isEmpty() && head.number() < newest.page().upkeep().floor()) {
        return false;
      }
      LakePage.read(record.orElseThrow(() -> e).page(), pages);
    }
    return true;
  }

  /**
   * The last state at or before a time.
   *
   * @throws NotFoundException when the lake is younger; the message names its first entry
   * @throws ExpiredException when it is not kept any more
   */
  LakeState at(Instant time, LakeState newest) {
    if (!newest.entry().time().isAfter(time)) {
      return newest;
    }
    EntryRecord record =
        newest
            .page()
            .entryAt(time, pages)
            .orElseThrow(
                () ->
                    new NotFoundException(
                        NotFoundException.Kind.ENTRY,
                        time.toString(),
                        "At %s there was no lake in %s: its first entry is from %s."
                            .formatted(
                                time,
                                store.location(),
                                newest.page().firstEntry(pages).orElse(newest.entry()).time())));
    return state(record, newest);
  }

  /**
   * The state after an entry.
   *
   * @throws NotFoundException when there is no such entry; the message names the newest
   * @throws ExpiredException when it is not kept any more
   */
  LakeState atEntry(long number, LakeState newest) {
    if (number < 0 || number > newest.number()) {
      throw new NotFoundException(
          NotFoundException.Kind.ENTRY,
          String.valueOf(number),
          "The lake in %s has no entry %d: its entries are 0 to %d."
              .formatted(store.location(), number, newest.number()));
    }
    if (number == newest.number()) {
      return newest;
    }
    EntryRecord record =
        newest
            .page()
            .entry(number, pages)
            .orElseThrow(
                () ->
                    ExpiredException.ofEntry(
                        number,
                        "Entry %d of the lake in %s has expired."
                            .formatted(number, store.location()),
                        null));
    return state(record, newest);
  }

  private LakeState state(EntryRecord record, LakeState newest) {
    return new LakeState(
        record,
        0,
        newest.mustRead(),
        newest.mustWrite(),
        LakePage.read(record.page(), pages),
        record.page());
  }
}
