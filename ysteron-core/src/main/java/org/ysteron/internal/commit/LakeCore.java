package org.ysteron.internal.commit;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.internal.file.FooterCache;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Means;
import org.ysteron.internal.work.Waiting;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;
import org.ysteron.option.LakeOptions;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.Committed;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.CreationRace;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/** An open lake: its store, its ledger, and the newest state that was seen. Thread-safe. */
public final class LakeCore implements AutoCloseable {
  /** What is not named is known without a name. */
  static final Set<String> KNOWN_FEATURES = LakeFeature.words();

  /** So much later than the one before it a commit says to be whose clock was behind. */
  public static final Duration UNKNOWN_LATER = Stamps.UNKNOWN;

  private static final int MOST_STARTS = 20;
  private static final int MOST_TRIES = 8;

  private final ReadContext reading;
  private final Ledger ledger;
  private final LedgerReader reader;
  private final Stamps stamps;
  private final Waiting waiting;
  private final Duration retryTime;
  private final Shared shared;

  /** What all handles of an open lake have in common. */
  private static final class Shared {
    private final ObjectStore store;
    private final ReentrantLock turn = new ReentrantLock(true);
    private volatile LakeState newest;
    private volatile boolean isClosed;

    Shared(ObjectStore store) {
      this.store = store;
    }

    synchronized void see(LakeState state) {
      if (newest == null || newest.number() < state.number()) {
        newest = state;
      }
    }
  }

  private LakeCore(ObjectStore store, Settings settings) {
    this.shared = new Shared(store);
    this.ledger = new StoreLedger(store);
    this.reading =
        new ReadContext(
            store,
            new PageStore(
                store,
                new NewestPast(ledger, this::refreshHere, this::pages),
                settings.options().cache() * 2 / 3),
            new FooterCache(settings.options().cache() / 3),
            new Workers(settings.means()),
            Watch.NONE,
            settings.options().clock());
    this.reader = new LedgerReader(store, ledger, pages(), KNOWN_FEATURES);
    this.stamps = new Stamps(settings.options().clock(), store);
    this.waiting = settings.waiting();
    this.retryTime = settings.options().retryTime();
  }

  /** The same open lake, whose data and pages are read and written as long as the watch allows. */
  private LakeCore(LakeCore lake, Watch watch) {
    this.shared = lake.shared;
    this.ledger = lake.ledger;
    this.reader = lake.reader;
    this.stamps = lake.stamps;
    this.waiting = lake.waiting;
    this.retryTime = lake.retryTime;
    ObjectStore store = new WatchedStore(shared.store, watch);
    this.reading =
        new ReadContext(
            store,
            lake.pages().through(store),
            lake.reading.footers(),
            lake.workers(),
            watch,
            lake.clock());
  }

  /** The same open lake, whose calls a monitor watches instead of the one before. */
  public LakeCore watchedBy(ProgressMonitor monitor) {
    return new LakeCore(this, new Watch(monitor));
  }

  /**
   * How a lake is used by this process.
   *
   * @param waiting waits before another try
   */
  public record Settings(LakeOptions options, Waiting waiting) {
    public Settings(LakeOptions options) {
      this(options, Waiting.SLEEPING);
    }

    private Means means() {
      return new Means(
          options.threads().orElseGet(Means::standardThreads),
          options.memory().orElseGet(Means::standardMemory),
          options.temporaryDirectory().orElseGet(Means::standardTemporary));
    }
  }

  /**
   * Makes a lake in a store that has none, after proving that the store's create-if-absent holds.
   *
   * @throws AlreadyExistsException when there is a lake already
   */
  public static LakeCore create(ObjectStore store, CommitNote note, Settings settings) {
    LakeCore core = new LakeCore(store, settings);
    try {
      if (core.ledger.newest(-1) >= 0) {
        throw new AlreadyExistsException(
            AlreadyExistsException.Kind.LAKE,
            store.location(),
            "A lake already exists in %s. Open it, or choose another location."
                .formatted(store.location()));
      }
      store.makeRoot();
      CreationRace.run(store);
      if (!FirstEntry.write(core.ledger, core.stamps, note)) {
        throw new AlreadyExistsException(
            AlreadyExistsException.Kind.LAKE,
            store.location(),
            "Another process has just created a lake in %s. Open it.".formatted(store.location()));
      }
      core.refresh();
      return core;
    } catch (RuntimeException e) {
      core.workers().close();
      throw e;
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
      core.workers().close();
      throw e;
    }
  }

  /**
   * The newest state, looked up now.
   *
   * @throws org.ysteron.error.WrongLakeException when what is in the store is not the lake that was
   *     opened
   * @throws EndedException when the lake was closed
   */
  public LakeState refresh() {
    checkOpen();
    LakeState state = reader.newest(shared.newest);
    committed(state);
    return state;
  }

  /**
   * Makes sure that the lake was not closed.
   *
   * @throws EndedException when it was
   */
  void checkOpen() {
    if (shared.isClosed) {
      throw new EndedException(
          EndedException.Kind.LAKE,
          null,
          "The lake in %s was closed. Open it again.".formatted(store().location()),
          null);
    }
  }

  /** Reads something of the newest state; anew when that was superseded and let go meanwhile. */
  public <T> T ofNewest(Function<LakeState, T> read) {
    LakeState state = refresh();
    for (int tries = 1; ; tries++) {
      try {
        return read.apply(state);
      } catch (ExpiredException e) {
        LakeState later = refresh();
        if (later.number() == state.number() || tries == MOST_TRIES) {
          throw e;
        }
        state = later;
      }
    }
  }

  /** The newest state, of the lake that was opened, not of another that has as many entries. */
  public LakeState refreshHere() {
    LakeState state = refresh();
    reader.isThere(state);
    return state;
  }

  /**
   * Makes known that the lake was put back from a copy: whoever has seen more of it than is there
   * notices from then on.
   *
   * @param refusal refuses what was started before
   */
  public void restored(Change refusal, CommitNote note) {
    String id = UUID.randomUUID().toString();
    ledger.markRestored(id);
    commit(refusal, note);
    ledger.forgetRestoredBut(id);
  }

  /** The commits from the newest back, at most so many; their entries are checked. */
  public List<CommitStamp> commits(int limit) {
    return ofNewest(now -> reader.commits(now, limit));
  }

  /**
   * An entry, read now.
   *
   * @throws org.ysteron.error.DamagedException when its lines are damaged, or it is missing
   * @throws org.ysteron.error.ExpiredException when it is below the floor and not there
   */
  public LedgerEntry entry(long number) {
    return LedgerEntry.of(reader.head(number));
  }

  /** The newest state that was seen. */
  public LakeState newestSeen() {
    return shared.newest;
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
   * The state after an entry.
   *
   * @throws NotFoundException when there is none
   * @throws org.ysteron.error.ExpiredException when it is not kept any more
   */
  public LakeState atEntry(long number) {
    return reader.atEntry(number, refresh());
  }

  /**
   * Makes a commit of what depends on nothing but the state it is applied to.
   *
   * @throws org.ysteron.error.ConflictException when another commit stands in the way
   * @throws UnknownOutcomeException when the store does not say whether it happened
   */
  public Committed commit(Change change, CommitNote note) {
    LakeState start = newestSeen();
    long began = System.nanoTime();
    for (int tries = 1; ; tries++) {
      try {
        return commit(change, note, start);
      } catch (ConflictException e) {
        boolean isLast = tries == MOST_STARTS || isLate(began);
        if (e.kind() != ConflictException.Kind.SNAPSHOT_TOO_OLD || isLast) {
          throw e;
        }
        start = refresh(); // nothing was made from the state that is too old by now
      }
    }
  }

  /**
   * Makes a commit of what was started at a state.
   *
   * @param start the state that the change was made from
   */
  public Committed commit(Change change, CommitNote note, LakeState start) {
    return new CommitAttempt(this, List.of(new CommitAttempt.Noted(change, note)), start).run();
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
                    NotFoundException.Kind.COMMIT,
                    commit.commitId().toString(),
                    "Entry %d has no commit %s.".formatted(commit.entry(), commit.commitId())));
  }

  void checkWritable(LakeState state) {
    for (String feature : state.mustWrite()) {
      if (!KNOWN_FEATURES.contains(feature)) {
        throw new UnsupportedLakeException(
            feature,
            "Writing to this lake needs the feature \"%s\", which this program does not know. Use a newer Ysteron."
                .formatted(feature));
      }
    }
    if (state.page().upkeep().hasDrafts()) {
      throw new UnsupportedLakeException(
          "This lake has drafts, which this program does not know. Use a newer Ysteron.");
    }
  }

  /**
   * Makes sure that what was started at a state could be committed now.
   *
   * @throws ConflictException when it was started before the horizon
   * @throws WrongLakeException when it was started from an entry that is not there as it was
   */
  public void checkStart(LakeState start) {
    checkStart(refresh(), start);
  }

  /**
   * What was started before the horizon may have lost its files to a sweep, and what was started
   * from an entry that is not there as it was is another line's.
   */
  void checkStart(LakeState base, LakeState start) {
    long horizon = base.page().upkeep().horizon();
    if (start.number() < horizon) {
      throw new ConflictException(
          ConflictException.Kind.SNAPSHOT_TOO_OLD,
          "This work started at entry %d, but a sweep or an erasure refuses work from before entry %d. Nothing was changed; run it again on the newest version."
              .formatted(start.number(), horizon));
    }
    boolean same =
        start.number() == base.number()
            ? start.hash().equals(base.hash())
            : base.page()
                .entry(start.number(), pages())
                .filter(record -> record.hash().equals(start.hash()))
                .isPresent();
    if (!same) {
      throw new WrongLakeException(
          store().location(),
          start.lakeId(),
          "This work started at entry %d of lake %s, which differs from entry %d in %s. Nothing was changed; open the lake again."
              .formatted(start.number(), start.lakeId(), start.number(), store().location()));
    }
  }

  /**
   * Makes sure that a state that was seen is still of the lake that is there, and that its newest
   * entry can be read.
   *
   * @throws ConflictException when its entry was let go meanwhile
   * @throws WrongLakeException when another one is there, or none
   */
  public void checkStill(LakeState seen) {
    if (!reader.isThere(seen)) {
      throw new ConflictException(
          ConflictException.Kind.TOO_MANY_RETRIES,
          "Entry %d of %s, at which this call started, was removed by another process. Commits that were made stand; run it again."
              .formatted(seen.number(), store().location()));
    }
    refresh();
  }

  /**
   * The time by this machine's clock, which must not be ahead of the store's.
   *
   * @throws org.ysteron.error.YsteronException when it is
   */
  public Instant time() {
    return stamps.now();
  }

  /**
   * Does work that started at a state. When it fails because something was missing, and the state
   * is below the horizon by now, a sweep has taken what it needed or was writing: then it started
   * too early, which is a conflict.
   *
   * @throws ConflictException when it started too early
   */
  public <T> T startedAt(LakeState start, Supplier<T> work) {
    try {
      return work.get();
    } catch (ExpiredException | StoreException e) {
      throw missed(e, start);
    }
  }

  /**
   * What to tell somebody who started at a state and missed something: that this was too long ago
   * when it was, else the failure as it is.
   */
  public RuntimeException missed(RuntimeException missing, LakeState start) {
    try {
      checkStart(start);
      return missing;
    } catch (ConflictException tooEarly) {
      tooEarly.addSuppressed(missing);
      return tooEarly;
    } catch (StoreException unreachable) {
      return missing;
    }
  }

  /** Remembers a state that this process has seen or committed. */
  void committed(LakeState state) {
    shared.see(state);
  }

  /** The store, for what is not to be stopped halfway. */
  ObjectStore unwatchedStore() {
    return shared.store;
  }

  /** Gives commits their number, id and time. */
  Stamps stamps() {
    return stamps;
  }

  LedgerReader ledgerReader() {
    return reader;
  }

  /** Held by the commit of this process whose turn it is. */
  ReentrantLock turn() {
    return shared.turn;
  }

  /** Whether both are handles of the same open lake. */
  public boolean isSameLake(LakeCore other) {
    return shared == other.shared;
  }

  /** Who watches the calls of this handle. */
  public Watch watch() {
    return reading.watch();
  }

  /** What reading needs of this lake. */
  public ReadContext reading() {
    return reading;
  }

  public ObjectStore store() {
    return reading.store();
  }

  public Ledger ledger() {
    return ledger;
  }

  public PageStore pages() {
    return reading.pages();
  }

  public Workers workers() {
    return reading.workers();
  }

  public Clock clock() {
    return stamps.clock();
  }

  /** What CURRENT_TIMESTAMP is for what begins now. */
  public Instant now() {
    return reading().now();
  }

  /**
   * Whether what began at a time is not to be tried again.
   *
   * @param began by {@link System#nanoTime()}
   */
  public boolean isLate(long began) {
    return Duration.ofNanos(System.nanoTime() - began).compareTo(retryTime) > 0;
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

  /**
   * Applies a change to the newest state as a commit would, and forgets it.
   *
   * @throws ConflictException when it would conflict
   */
  public void dryRun(Change change, CommitNote note) {
    LakeState base = refresh();
    Staging staging = new Staging(base, pages());
    staging.begin(stamps.next(base, List.of(note)).get(0));
    change.apply(staging);
  }

  @Override
  public void close() {
    shared.isClosed = true;
    workers().close();
    shared.store.close();
  }
}
