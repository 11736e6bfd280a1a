package org.ysteron.internal.commit;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.tree.Reach;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.Committed;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.NotAppliedException;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/**
 * An entry on its way, with one commit or several: apply the changes to the newest state, create
 * the next entry if absent, and when that is taken, again.
 *
 * <p>Before an entry is offered it is known that the entry before it is there with its hash, so
 * that this is the lake it was. After an unclear reply the same bytes are tried at the same number
 * until that slot is filled; its content tells whose it is. Only when it is another's does the
 * commit go on. A win below the floor is none: that number was another's before it was trimmed. Nor
 * is one on a lake that was put back from a copy between that look and the win: there the entry
 * would stand behind a hole, or on one that it was not made on, and is taken away again. For one
 * thread.
 */
public final class CommitAttempt implements UnknownOutcomeException.Attempt {
  private static final int MOST_ROUNDS = 1000;
  private static final int UNCLEAR_TRIES = 5;
  private static final int PREPARATIONS = 3;
  private static final int DIRECTORY = 1000;

  private final LakeCore core;
  private final List<Noted> parts;
  private final LakeState start;
  private final long began = System.nanoTime();
  private Proposal proposal;
  private int rounds;

  /** One commit of the entry. */
  record Noted(Change change, CommitNote note) {}

  /** {@code start}: the oldest state that one of the changes was made from. */
  CommitAttempt(LakeCore core, List<Noted> parts, LakeState start) {
    this.core = core;
    this.parts = List.copyOf(parts);
    this.start = start;
  }

  /** Bytes for a slot of the ledger, and what they mean. */
  @SuppressWarnings("ArrayRecordComponent")
  private record Proposal(
      byte[] bytes, LakeState base, LakeState state, EntryHead head, EntryPages pages) {
    long number() {
      return state.number();
    }

    UUID commitId() {
      return state.commit().commitId();
    }
  }

  private enum Slot {
    OURS,
    ANOTHERS,
    ASTRAY
  }

  /**
   * Goes on until the commit has happened or cannot; the last one, when there are several.
   *
   * @throws ConflictException when it met a commit that it cannot be combined with
   * @throws UnknownOutcomeException when that is still not known; call again
   */
  @Override
  public Committed run() {
    List<Committed> all = runAll();
    return all.get(all.size() - 1);
  }

  /** Goes on until all commits of the entry have happened or cannot. */
  List<Committed> runAll() {
    if (proposal == null) {
      core.startedAt(
          start,
          () -> {
            prepare(core.newestSeen());
            return null;
          });
    }
    // Commits of one process take turns: only one can have the next entry anyway.
    if (!core.turn().tryLock()) {
      parts.forEach(part -> part.change.awaitDurable());
      core.turn().lock();
    }
    try {
      return core.startedAt(start, this::goOn);
    } finally {
      core.turn().unlock();
    }
  }

  private List<Committed> goOn() {
    boolean resumed = proposal != null;
    while (true) {
      if (proposal == null) {
        core.checkOpen();
        core.watch().check();
        LakeState base = preparedBase();
        core.checkWritable(base);
        core.checkStart(base, start);
        try {
          proposal = propose(base);
        } catch (ExpiredException e) {
          if (core.refresh().number() == base.number() || ++rounds == MOST_ROUNDS) {
            throw e;
          }
          continue; // what the base had was let go while it was read
        }
      }
      Slot slot = resumed ? settled(null) : offer();
      resumed = false;
      if (slot == Slot.OURS) {
        return committed();
      }
      if (slot == Slot.ASTRAY) {
        throw astray();
      }
      proposal = null;
      if (++rounds == MOST_ROUNDS || core.isLate(began)) {
        throw new ConflictException(
            ConflictException.Kind.TOO_MANY_RETRIES,
            "Other writers were first at the next ledger entry %d times. Nothing was changed; try again when fewer writers are active."
                .formatted(rounds));
      }
      core.pause(rounds);
    }
  }

  private WrongLakeException astray() {
    Proposal refused = proposal;
    proposal = null;
    return new WrongLakeException(
        core.store().location(),
        refused.state().lakeId(),
        "The lake in %s was restored from a copy, moved or replaced while entry %d was written. The entry was removed and nothing was changed; open the lake again."
            .formatted(core.store().location(), refused.number()));
  }

  private void prepare(LakeState state) {
    parts.forEach(part -> part.change.prepare(state));
  }

  /** A base for which the changes are prepared, as far as a few tries outside the turn go. */
  private LakeState preparedBase() {
    LakeState base = base();
    for (int tries = 0; tries < PREPARATIONS; tries++) {
      LakeState newer = base;
      if (parts.stream().allMatch(part -> part.change.isPrepared(newer))) {
        return base;
      }
      core.turn().unlock();
      try {
        prepare(newer);
      } finally {
        core.turn().lock();
      }
      base = base();
    }
    return base;
  }

  /**
   * The state last seen is most often still the newest; if not, the create says so. That it is
   * there as it was seen is looked at, for the store may hold another lake by now.
   */
  private LakeState base() {
    if (rounds == 0) {
      LakeState seen = core.newestSeen();
      if (core.ledgerReader().isThere(seen)) {
        return seen;
      }
    }
    return core.refresh();
  }

  private List<Committed> committed() {
    proposal.pages.adopt(core.pages());
    core.committed(proposal.state);
    core.watch().committed(proposal.number());
    List<Committed> all = new ArrayList<>();
    for (EntryHead.CommitLines commit : proposal.head.commits()) {
      Map<UUID, Long> versions = new HashMap<>();
      commit.tables().forEach(line -> versions.put(line.id(), line.version()));
      all.add(new Committed(commit.stamp(), versions));
    }
    return all;
  }

  private Proposal propose(LakeState base) {
    ObjectStore store = core.unwatchedStore();
    Staging staging = new Staging(base, core.pages().through(store));
    List<CommitStamp> stamps = core.stamps().next(base, parts.stream().map(Noted::note).toList());
    for (int i = 0; i < parts.size(); i++) {
      staging.begin(stamps.get(i));
      parts.get(i).change.apply(staging);
      staging.end(parts.get(i).note);
    }
    EntryPages pages = EntryPages.lay(staging, store, start.number());
    checkReach(base, staging, pages);
    EntryHead head =
        new EntryHead(
            base.lakeId(),
            base.number() + 1,
            stamps.get(0).time(),
            start.number(),
            base.hash(),
            staging.mustRead(),
            staging.mustWrite(),
            staging.commits(),
            pages.ref(),
            EntryHead.Sum.NONE);
    return encode(base, head, pages);
  }

  /** Nothing refers to what may go: it would be lost later, and here it is found in time. */
  private static void checkReach(LakeState base, Staging staging, EntryPages pages) {
    Reach reach = pages.ref().below();
    UpkeepState upkeep = base.page().upkeep();
    if (reach.entry() < upkeep.floor() || reach.start() < upkeep.pagesFrom()) {
      throw new IllegalStateException(
          "entry %d would refer to %s, below the floor %d, or the start %d of its own pages"
              .formatted(base.number() + 1, reach, upkeep.floor(), upkeep.pagesFrom()));
    }
    for (TableListing table : staging.changedTables()) {
      Reach ofTable = table.page().reach().and(table.head().reach());
      if (ofTable.start() < table.pagesFrom()) {
        throw new IllegalStateException(
            "table %s would refer to pages of start %d, below %d"
                .formatted(table.name(), ofTable.start(), table.pagesFrom()));
      }
    }
  }

  private Proposal encode(LakeState base, EntryHead head, EntryPages pages) {
    byte[] lines = head.encode(pages.own().length, pages.end());
    byte[] bytes = Arrays.copyOf(lines, lines.length + pages.own().length);
    System.arraycopy(pages.own(), 0, bytes, lines.length, pages.own().length);
    pages.settle(head.number(), lines.length);
    EntryHead written = readBack(bytes, head);
    LakeState state =
        new LakeState(
            EntryRecord.of(
                head.stamps(),
                written.sum().hash(),
                pages.page().remembered(pages.ref()),
                head.isQuiet()),
            lines.length,
            head.mustRead(),
            head.mustWrite(),
            pages.page(),
            pages.ref());
    return new Proposal(bytes, base, state, written, pages);
  }

  /** Reads the lines as everybody else will; what cannot be read is not offered. */
  private EntryHead readBack(byte[] bytes, EntryHead head) {
    String name = core.ledger().nameOf(head.number());
    try {
      EntryHead read =
          EntryHead.parse(
              new Ledger.Start(bytes, bytes.length), head.number(), name, LakeCore.KNOWN_FEATURES);
      if (read.equals(head.with(read.sum()))) {
        return read;
      }
    } catch (DamagedException e) {
      throw new InvalidInputException(
          "The commit's note, statement or labels cannot be stored: %s Nothing was changed."
              .formatted(e.getMessage()),
          e);
    }
    throw new InvalidInputException(
        "The commit's note, statement or labels would not be read back unchanged. Nothing was changed.");
  }

  private Slot offer() {
    try {
      parts.forEach(part -> part.change.awaitDurable());
      if (proposal.number() % DIRECTORY == 0) {
        // Its directory is another than its parent's, which so may not have been synced yet.
        core.store().settle(core.ledger().nameOf(proposal.base.number()));
      }
    } catch (RuntimeException e) {
      proposal = null;
      throw e;
    }
    try {
      if (core.ledger().create(proposal.number(), proposal.bytes)) {
        return afterWin();
      }
      return taken();
    } catch (NotAppliedException e) {
      // The first try, and nothing came of it: the commit has not happened and will not.
      proposal = null;
      throw e;
    } catch (UnknownOutcomeException e) {
      throw e;
    } catch (StoreException e) {
      return settled(e);
    } catch (RuntimeException e) {
      throw unknown(e);
    }
  }

  /** The slot has an entry, or had one that was trimmed before it could be read. */
  private Slot taken() {
    try {
      return isOurs() ? afterWin() : Slot.ANOTHERS;
    } catch (ExpiredException | MissingObjectException e) {
      return remembered();
    }
  }

  /** Once the entry was offered, no failure says that it is not there. */
  private Slot settled(StoreException unclear) {
    try {
      return settle(unclear);
    } catch (UnknownOutcomeException e) {
      throw e;
    } catch (RuntimeException e) {
      throw unknown(e);
    }
  }

  /** Finds out whose the slot is, filling it with our bytes when it is empty. */
  private Slot settle(StoreException unclear) {
    StoreException last = unclear;
    for (int tries = 0; tries < UNCLEAR_TRIES; tries++) {
      if (last != null) {
        core.pause(tries + 1);
      }
      try {
        if (core.ledger().exists(proposal.number())) {
          return isOurs() ? afterWin() : afterLoss();
        }
        if (!core.ledgerReader().isThere(proposal.base)) {
          if (core.ledger().floor() > proposal.number()) {
            return remembered();
          }
          throw unknown(null); // another lake may be there by now
        }
        if (core.ledger().create(proposal.number(), proposal.bytes)) {
          return afterWin();
        }
      } catch (StoreException e) {
        last = e;
      }
    }
    throw unknown(last);
  }

  private UnknownOutcomeException unknown(RuntimeException last) {
    return new UnknownOutcomeException(
        "It is unknown whether the commit happened, because the store did not say whether entry %d was written: %s Run the attempt of the exception, or search the history for the commit ID %s."
            .formatted(
                proposal.number(),
                last == null ? "no reply." : last.getMessage(),
                proposal.commitId()),
        last,
        this);
  }

  /** Whether a slot that is filled holds our bytes, in which our commit's id is. */
  private boolean isOurs() {
    if (!core.ledger().read(proposal.number(), proposal.bytes.length).isWholly(proposal.bytes)) {
      return false;
    }
    // A call that failed on its way may have left the name behind unsynced.
    core.store().settle(core.ledger().nameOf(proposal.number()));
    return true;
  }

  /**
   * After an unclear reply a slot that holds another entry may have been ours all the same: ours
   * was trimmed, and what is there now is a sleeper's.
   */
  private Slot afterLoss() {
    return core.ledger().floor() <= proposal.number() ? Slot.ANOTHERS : remembered();
  }

  /**
   * A slot below the floor may have been another's before it was trimmed, and the lake may have
   * vanished since its base was looked at, or have been put back from a copy that ends before it.
   */
  private Slot afterWin() {
    Ledger.Marks marks = core.ledger().marks();
    if (marks.floor() > proposal.number()) {
      return remembered();
    }
    try {
      core.ledgerReader().checkNotPutBack(marks, proposal.base);
      core.ledgerReader()
          .isThere(proposal.base); // a store without a root makes entries behind a hole
    } catch (WrongLakeException e) {
      takeAway();
      return Slot.ASTRAY;
    }
    return Slot.OURS;
  }

  /** Ours may have been won before the copy was put back; then the number may be another's now. */
  private void takeAway() {
    if (core.ledger().exists(proposal.number()) && isOurs()) {
      core.store().delete(core.ledger().nameOf(proposal.number()));
    }
  }

  /** Later entries remember whose a slot below the floor was, or which commits made versions. */
  private Slot remembered() {
    LakeState newest = core.refresh();
    Optional<EntryRecord> record = newest.page().entry(proposal.number(), core.pages());
    if (record.isPresent()) {
      return record.get().commits().stream().anyMatch(this::isOfProposal)
          ? Slot.OURS
          : Slot.ANOTHERS;
    }
    for (EntryHead.CommitLines commit : proposal.head.commits()) {
      for (EntryHead.TableLine line : commit.tables()) {
        Optional<Slot> slot = whoMade(newest, line);
        if (slot.isPresent()) {
          return slot.get();
        }
      }
    }
    throw new UnknownOutcomeException(
        "Entry %d expired before it was known whether it contains commit %s. Search the history for this ID."
            .formatted(proposal.number(), proposal.commitId()),
        null,
        this);
  }

  /** By whom the version of a table was made that the proposal makes; empty when it is gone. */
  private Optional<Slot> whoMade(LakeState newest, EntryHead.TableLine line) {
    Optional<TableListing> table = newest.page().table(line.id(), core.pages());
    if (table.isEmpty()) {
      return Optional.empty();
    }
    TableHistory history = TableHistory.of(table.get(), core.pages());
    if (history.newest().version() < line.version()) {
      return Optional.of(Slot.ANOTHERS); // it would be there
    }
    return history
        .recordOf(line.version())
        .map(made -> isOfProposal(made.commit()) ? Slot.OURS : Slot.ANOTHERS);
  }

  private boolean isOfProposal(CommitStamp commit) {
    return proposal.head.stamps().stream()
        .anyMatch(own -> own.commitId().equals(commit.commitId()));
  }
}
