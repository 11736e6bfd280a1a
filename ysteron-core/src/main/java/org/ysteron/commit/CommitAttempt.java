package org.ysteron.commit;

import java.util.HashMap;
import java.util.Map;
import java.util.UUID;
import org.ysteron.error.ConflictException;
import org.ysteron.store.NotAppliedException;
import org.ysteron.store.StoreException;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.EntryRecord;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * One commit on its way: apply the change to the newest state, create the next entry if absent, and
 * when that is taken, again.
 *
 * <p>After an unclear reply the same bytes are tried at the same number until that slot is filled;
 * the commit id in the entry tells whose it is. Only when it is another's does the commit go on. A
 * win below the floor is none: that number was another's before it was trimmed. For one thread.
 */
public final class CommitAttempt {
  private static final int MOST_ROUNDS = 1000;
  private static final int UNCLEAR_TRIES = 5;
  private static final long LARGE = 256 << 10;

  private final LakeCore core;
  private final Change change;
  private final CommitNote note;
  private final long start;
  private Proposal proposal;
  private int rounds;

  CommitAttempt(LakeCore core, Change change, CommitNote note, long start) {
    this.core = core;
    this.change = change;
    this.note = note;
    this.start = start;
  }

  /** Bytes for a slot of the ledger, and what they mean. */
  @SuppressWarnings("ArrayRecordComponent")
  private record Proposal(
      byte[] bytes, LakeState state, Map<UUID, Long> versions, PageBatch batch) {
    long number() {
      return state.number();
    }
  }

  private enum Slot {
    OURS,
    ANOTHERS
  }

  /**
   * Goes on until the commit has happened or cannot.
   *
   * @throws ConflictException when it met a commit that it cannot be combined with
   * @throws UnknownOutcomeException when that is still not known; call again
   */
  public Committed run() {
    // Commits of one process take turns: only one can have the next entry anyway.
    if (!core.turn().tryLock()) {
      change.awaitDurable();
      core.turn().lock();
    }
    try {
      return takeTurn();
    } finally {
      core.turn().unlock();
    }
  }

  private Committed takeTurn() {
    boolean resumed = proposal != null;
    while (true) {
      if (proposal == null) {
        // The state last seen is most often still the newest; if not, the create says so.
        LakeState base = rounds == 0 ? core.newestSeen() : core.refresh();
        core.checkWritable(base);
        proposal = propose(base);
      }
      Slot slot = resumed ? settled(null) : offer();
      resumed = false;
      if (slot == Slot.OURS) {
        core.committed(proposal.state);
        return new Committed(proposal.state.commit(), proposal.versions);
      }
      abandon();
      if (++rounds == MOST_ROUNDS) {
        throw new ConflictException(
            "The commit lost the race for the next ledger entry %d times; nothing was changed. Try again when fewer writers are at work."
                .formatted(rounds));
      }
      core.pause(rounds);
    }
  }

  private Proposal propose(LakeState base) {
    CommitStamp commit = core.info(base.number() + 1, base.commit().time(), note);
    Staging staging = new Staging(base, core.pages(), commit);
    try {
      change.apply(staging);
    } catch (RuntimeException e) {
      core.pages().forget(staging.batch());
      throw e;
    }
    PageBatch batch = staging.batch();
    EntryRecord parent = new EntryRecord(base.commit(), base.hash(), base.pageRef());
    staging.setPage(staging.page().withEntry(parent, core.pages(), batch));
    PageRef page = staging.page().write(batch);
    byte[] own = new byte[0];
    PageHome home = new PageBatch().home();
    boolean large = batch.size() > LARGE;
    if (large) {
      writePages(batch);
    } else {
      own = batch.toByteArray();
      home = batch.home();
    }
    EntryHead head =
        new EntryHead(
            base.lakeId(),
            commit,
            start,
            base.hash(),
            staging.mustRead(),
            staging.mustWrite(),
            staging.lines(),
            page,
            note.labels(),
            "");
    EntryHead.Encoded encoded = head.encode(own, home);
    if (!large) {
      batch.settleInEntry(commit.entry(), encoded.pagesStart());
    }
    Map<UUID, Long> versions = new HashMap<>();
    staging.lines().forEach(line -> versions.put(line.id(), line.version()));
    LakeState state =
        new LakeState(
            base.lakeId(),
            commit,
            encoded.hash(),
            staging.mustRead(),
            staging.mustWrite(),
            staging.page(),
            page);
    return new Proposal(encoded.bytes(), state, versions, batch);
  }

  private void writePages(PageBatch batch) {
    UUID id = UUID.randomUUID();
    String name = PageHome.pages(start, id, 0).objectName();
    if (!core.store().createIfAbsent(name, batch.toByteArray())) {
      throw new StoreException("Object " + name + " exists already.");
    }
    batch.settleInPages(start, id);
  }

  private Slot offer() {
    try {
      change.awaitDurable();
    } catch (RuntimeException e) {
      abandon();
      throw e;
    }
    try {
      if (core.ledger().create(proposal.number(), proposal.bytes)) {
        return afterWin();
      }
      return whose();
    } catch (NotAppliedException e) {
      // The first try, and nothing came of it: the commit has not happened and will not.
      abandon();
      throw e;
    } catch (UnknownOutcomeException e) {
      throw e;
    } catch (StoreException e) {
      return settled(e);
    } catch (RuntimeException e) {
      throw unknown(e);
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

  /** Gives up what was proposed, with the pages made for it, which no entry will ever hold. */
  private void abandon() {
    core.pages().forget(proposal.batch);
    proposal = null;
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
          return whose();
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
        "The store did not say whether entry %d was written, so it is not known whether the commit happened: %s Keep this commit and ask it again, or look for its id %s in the history."
            .formatted(
                proposal.number(),
                last == null ? "no reply." : last.getMessage(),
                proposal.state.commit().commitId()),
        last,
        this);
  }

  private Slot whose() {
    long number = proposal.number();
    EntryHead head =
        EntryHead.parse(core.ledger().read(number), number, core.ledger().nameOf(number));
    boolean ours = head.commit().commitId().equals(proposal.state.commit().commitId());
    return ours ? afterWin() : Slot.ANOTHERS;
  }

  /**
   * A slot below the floor may have been another's before it was trimmed: then later entries
   * remember whose it was.
   */
  private Slot afterWin() {
    long number = proposal.number();
    if (core.ledger().floor() <= number) {
      return Slot.OURS;
    }
    UUID ours = proposal.state.commit().commitId();
    EntryRecord remembered =
        core.refresh()
            .page()
            .entry(number, core.pages())
            .orElseThrow(
                () ->
                    new UnknownOutcomeException(
                        "Entry %d has expired before it was known whether the commit %s is in it. Look for its id in the history."
                            .formatted(number, ours),
                        null,
                        this));
    return remembered.commit().commitId().equals(ours) ? Slot.OURS : Slot.ANOTHERS;
  }
}
