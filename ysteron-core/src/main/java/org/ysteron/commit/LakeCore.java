package org.ysteron.commit;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.ReentrantLock;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.file.FooterCache;
import org.ysteron.file.Workers;
import org.ysteron.store.CreationRace;
import org.ysteron.store.ObjectStore;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.LakePage;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;

/** An open lake: its store, its ledger, and the newest state that was seen. Thread-safe. */
public final class LakeCore implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(LakeCore.class);

  /** A clock this much ahead of the store's makes no commits. */
  private static final Duration MOST_AHEAD = Duration.ofSeconds(60);

  /** All of format 1 is known without a name. */
  static final Set<String> KNOWN_FEATURES = Set.of();

  private final ObjectStore store;
  private final Ledger ledger;
  private final LedgerReader reader;
  private final Clock clock;
  private final PageStore pages;
  private final Workers workers;
  private final FooterCache footers = new FooterCache();
  private final Waiting waiting;
  private final ReentrantLock turn = new ReentrantLock(true);
  private volatile LakeState newest;

  private LakeCore(ObjectStore store, Settings settings) {
    this.store = store;
    this.ledger = new StoreLedger(store);
    this.clock = settings.clock();
    this.pages = new PageStore(store, ledger::floor);
    this.reader = new LedgerReader(store, ledger, pages, KNOWN_FEATURES);
    this.workers = new Workers(settings.threads());
    this.waiting = settings.waiting();
  }

  /**
   * How a lake is used by this process.
   *
   * @param clock gives commits their time
   * @param threads how many threads read and write; with 0 the caller's does
   * @param waiting waits before another try
   */
  public record Settings(Clock clock, int threads, Waiting waiting) {
    public Settings(Clock clock, int threads) {
      this(clock, threads, LakeCore::sleep);
    }

    public static Settings standard() {
      return new Settings(Clock.systemUTC(), Runtime.getRuntime().availableProcessors());
    }
  }

  /** Waits some microseconds. */
  @FunctionalInterface
  public interface Waiting {
    void micros(long count);
  }

  private static void sleep(long micros) {
    try {
      TimeUnit.MICROSECONDS.sleep(micros);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new YsteronException("Interrupted while waiting to try a commit again.", e);
    }
  }

  /**
   * Makes a lake in a store that has none, after proving that the store's create-if-absent holds.
   *
   * @throws InvalidInputException when there is a lake already
   */
  public static LakeCore create(ObjectStore store, CommitNote note, Settings settings) {
    LakeCore core = new LakeCore(store, settings);
    try {
      if (core.ledger.newest(-1) >= 0) {
        throw new InvalidInputException(
            "There is a lake in %s already; open it, or choose another place."
                .formatted(store.location()));
      }
      store.makeRoot();
      CreationRace.run(store);
      core.writeFirstEntry(note);
      core.refresh();
      return core;
    } catch (RuntimeException e) {
      core.workers.close();
      throw e;
    }
  }

  private void writeFirstEntry(CommitNote note) {
    UUID lakeId = UUID.randomUUID();
    PageBatch batch = new PageBatch();
    PageRef page = LakePage.create(lakeId).write(batch);
    CommitStamp stamp = stamp(0, 0, time(Instant.MIN), note);
    EntryHead head =
        new EntryHead(
            lakeId,
            0,
            stamp.time(),
            0,
            "",
            List.of(),
            List.of(),
            List.of(new EntryHead.CommitLines(stamp, note.labels(), List.of())),
            page,
            EntryHead.Sum.NONE);
    byte[] own = batch.toByteArray();
    byte[] entry = new ByteOut().raw(head.encode(own.length, batch.next())).raw(own).toByteArray();
    if (!ledger.create(0, entry) && !ledger.read(0, entry.length).isWholly(entry)) {
      throw new InvalidInputException(
          "Somebody else just made a lake in %s; open it.".formatted(store.location()));
    }
  }

  /**
   * Opens the lake in a store.
   *
   * @throws NotFoundException when there is none
   * @throws UnsupportedLakeException when a newer program wrote it
   * @throws DamagedException when its ledger is damaged
   */
  public static LakeCore open(ObjectStore store, Settings settings) {
    LakeCore core = new LakeCore(store, settings);
    try {
      core.refresh();
      return core;
    } catch (RuntimeException e) {
      core.workers.close();
      throw e;
    }
  }

  /**
   * The newest state, looked up now.
   *
   * @throws org.ysteron.error.WrongLakeException when what is in the store is not the lake that was
   *     opened
   */
  public LakeState refresh() {
    LakeState state = reader.newest(newest);
    committed(state);
    return state;
  }

  /** The commits from the newest back, at most so many; their entries are checked. */
  public List<CommitStamp> commits(int limit) {
    return reader.commits(refresh(), limit);
  }

  /** The newest state that was seen. */
  public LakeState newestSeen() {
    return newest;
  }

  /**
   * The last state at or before a time.
   *
   * @throws NotFoundException when the lake is younger; the message names its first entry
   * @throws org.ysteron.error.ExpiredException when it is not kept any more
   */
  public LakeState at(Instant time) {
    return reader.at(time, refresh());
  }

  /**
   * Makes a commit.
   *
   * @throws org.ysteron.error.ConflictException when another commit stands in the way
   * @throws UnknownOutcomeException when the store does not say whether it happened
   */
  public Committed commit(Change change, CommitNote note) {
    return commit(change, note, newestSeen());
  }

  /**
   * Makes a commit of what was started at a state.
   *
   * @param start the state that the change was made from
   */
  public Committed commit(Change change, CommitNote note, LakeState start) {
    return new CommitAttempt(this, List.of(new CommitAttempt.Part(change, note)), start).run();
  }

  /** The names and values that the writer of a commit gave it. */
  public Map<String, String> labels(CommitStamp commit) {
    return reader.head(commit.entry()).commits().stream()
        .filter(lines -> lines.stamp().commitId().equals(commit.commitId()))
        .findFirst()
        .map(EntryHead.CommitLines::labels)
        .orElseThrow(
            () ->
                new NotFoundException(
                    "Entry %d has no commit %s.".formatted(commit.entry(), commit.commitId())));
  }

  void checkWritable(LakeState state) {
    for (String feature : state.mustWrite()) {
      if (!KNOWN_FEATURES.contains(feature)) {
        throw new UnsupportedLakeException(
            "Writing to this lake needs the feature \"%s\", which this program does not know. Use a newer Ysteron."
                .formatted(feature));
      }
    }
  }

  /**
   * What was started before the horizon may have lost its files to a sweep, and what was started
   * from an entry that is not there as it was is another line's.
   */
  void checkStart(LakeState base, LakeState start) {
    long horizon = base.page().upkeep().horizon();
    if (start.number() < horizon) {
      throw new ConflictException(
          "This was started at entry %d, and what was started before entry %d may not be committed any more. Nothing was changed; do it again on the newest version."
              .formatted(start.number(), horizon));
    }
    boolean same =
        start.number() == base.number()
            ? start.hash().equals(base.hash())
            : base.page()
                .entry(start.number(), pages)
                .filter(record -> record.hash().equals(start.hash()))
                .isPresent();
    if (!same) {
      throw new WrongLakeException(
          "This was started at entry %d of lake %s, which is not the entry %d that %s has now. Nothing was changed; open the lake again."
              .formatted(start.number(), start.lakeId(), start.number(), store.location()));
    }
  }

  /** Who, when and why for some commits of the next entry. */
  List<CommitStamp> stamps(LakeState base, List<CommitNote> notes) {
    Instant time = time(base.entry().time());
    List<CommitStamp> stamps = new ArrayList<>();
    for (CommitNote note : notes) {
      long ordinal = base.commit().ordinal() + 1 + stamps.size();
      stamps.add(stamp(base.number() + 1, ordinal, time, note));
    }
    return stamps;
  }

  private static CommitStamp stamp(long entry, long ordinal, Instant time, CommitNote note) {
    return new CommitStamp(
        entry,
        ordinal,
        UUID.randomUUID(),
        time,
        note.author(),
        note.program(),
        note.note(),
        note.statement());
  }

  /** The time of a commit, later than its parent's and not ahead of the store's. */
  private Instant time(Instant parent) {
    Instant now = clock.instant().truncatedTo(ChronoUnit.MICROS);
    Instant stores = store.time();
    if (now.isAfter(stores.plus(MOST_AHEAD))) {
      throw new YsteronException(
          "The clock of this machine says %s, but the store of the lake says %s. Set the clock right and try again; nothing was changed."
              .formatted(now, stores));
    }
    if (now.isAfter(parent)) {
      return now;
    }
    Instant next = parent.plus(1, ChronoUnit.MICROS);
    if (parent.isAfter(now.plus(MOST_AHEAD))) {
      LOG.warn(
          "The clock of this machine says {}, but the newest commit of the lake in {} is of {}; the next one is given the time {}.",
          now,
          store.location(),
          parent,
          next);
    }
    return next;
  }

  /** Remembers a state that this process has seen or committed. */
  synchronized void committed(LakeState state) {
    if (newest == null || newest.number() < state.number()) {
      newest = state;
    }
  }

  LedgerReader ledgerReader() {
    return reader;
  }

  /** Held by the commit of this process whose turn it is. */
  ReentrantLock turn() {
    return turn;
  }

  public ObjectStore store() {
    return store;
  }

  public Ledger ledger() {
    return ledger;
  }

  public PageStore pages() {
    return pages;
  }

  public Workers workers() {
    return workers;
  }

  public FooterCache footers() {
    return footers;
  }

  public Clock clock() {
    return clock;
  }

  /**
   * Waits a little, at random, longer each time, so that racing writers fall out of step.
   *
   * @param times how often it was in vain so far
   */
  public void pause(int times) {
    long most = Math.min(50_000, 500L << Math.min(times, 10));
    waiting.micros(ThreadLocalRandom.current().nextLong(most));
  }

  @Override
  public void close() {
    workers.close();
    store.close();
  }
}
