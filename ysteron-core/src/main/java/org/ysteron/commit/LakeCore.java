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
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.ReentrantLock;
import java.util.random.RandomGenerator;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.file.FooterCache;
import org.ysteron.file.Workers;
import org.ysteron.store.CreationRace;
import org.ysteron.store.ObjectStore;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.EntryRecord;
import org.ysteron.table.LakePage;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageRef;
import org.ysteron.tree.PageStore;

/** An open lake: its store, its ledger, and the newest state that was seen. Thread-safe. */
public final class LakeCore implements AutoCloseable {
  private static final Duration CLOCK_TOLERANCE = Duration.ofHours(1);
  private static final Set<String> KNOWN_FEATURES =
      Set.of(
          Staging.ROW_MASKS,
          Staging.ROW_SERIALS,
          Staging.NAMED_WRITERS,
          Staging.EVOLUTION,
          Staging.LAYOUTS);

  private final ObjectStore store;
  private final Ledger ledger;
  private final Clock clock;
  private final PageStore pages;
  private final Workers workers;
  private final FooterCache footers = new FooterCache();
  private final RandomGenerator random;
  private final Waiting waiting;
  private final ReentrantLock turn = new ReentrantLock(true);
  private volatile LakeState newest;

  private LakeCore(ObjectStore store, Settings settings) {
    this.store = store;
    this.ledger = new StoreLedger(store);
    this.clock = settings.clock();
    this.pages = new PageStore(store);
    this.workers = new Workers(settings.threads());
    this.random = RandomGenerator.getDefault();
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
    EntryHead head =
        new EntryHead(
            lakeId,
            info(0, Instant.MIN, note),
            0,
            "",
            List.of(),
            List.of(),
            List.of(),
            page,
            note.labels(),
            "");
    EntryHead.Encoded encoded = head.encode(batch.toByteArray(), batch.home());
    if (!ledger.create(0, encoded.bytes())) {
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

  /** The newest state, looked up now. */
  public LakeState refresh() {
    LakeState known = newest;
    long number = ledger.newest(known == null ? -1 : known.number());
    if (number < 0) {
      throw new NotFoundException(
          "There is no lake in %s: it has no ledger. Make one there, or check the path."
              .formatted(store.location()));
    }
    if (known != null && known.number() == number) {
      return known;
    }
    EntryHead head = head(number);
    checkLink(head, known);
    LakeState state = state(head);
    synchronized (this) {
      if (newest == null || newest.number() < number) {
        newest = state;
      }
    }
    return state;
  }

  /** Compares the entry's parent hash with the entry before it. */
  private void checkLink(EntryHead head, LakeState known) {
    long number = head.commit().entry();
    // An entry at the floor has no parent left; one after an entry that we know has.
    if (number == 0 || (known == null && number <= ledger.floor())) {
      return;
    }
    String before =
        known != null && known.number() == number - 1 ? known.hash() : head(number - 1).hash();
    if (!before.equals(head.parent())) {
      throw new DamagedException(
          "The ledger of %s is broken: entry %d was made on another entry %d than the one that is there. Restore both from one copy of the lake."
              .formatted(store.location(), number, number - 1));
    }
  }

  private EntryHead head(long number) {
    EntryHead head = EntryHead.parse(ledger.read(number), number, ledger.nameOf(number));
    for (String feature : head.mustRead()) {
      if (!KNOWN_FEATURES.contains(feature)) {
        throw new UnsupportedLakeException(
            "Reading this lake needs the feature \"%s\", which this program does not know. Use a newer Ysteron."
                .formatted(feature));
      }
    }
    return head;
  }

  private LakeState state(EntryHead head) {
    LakePage page = LakePage.read(head.page(), pages);
    if (!page.lakeId().equals(head.lakeId())) {
      throw new DamagedException(
          "Entry %d is of lake %s but its page is of lake %s."
              .formatted(head.commit().entry(), head.lakeId(), page.lakeId()));
    }
    return new LakeState(
        head.lakeId(),
        head.commit(),
        head.hash(),
        head.mustRead(),
        head.mustWrite(),
        page,
        head.page());
  }

  /**
   * Reads entries of the ledger from the newest back, checking each and its link to the next.
   *
   * @param limit at most so many
   */
  public List<CommitStamp> commits(int limit) {
    LakeState state = refresh();
    List<CommitStamp> commits = new ArrayList<>();
    String expected = state.hash();
    long floor = ledger.floor();
    for (long n = state.number(); n >= floor && commits.size() < limit; n--) {
      EntryHead head = head(n);
      if (!head.hash().equals(expected)) {
        throw new DamagedException(
            "The ledger of %s is broken: entry %d is not the one that entry %d was made on."
                .formatted(store.location(), n, n + 1));
      }
      LakePage.read(head.page(), pages);
      expected = head.parent();
      commits.add(head.commit());
    }
    return commits;
  }

  /** The newest state that was seen. */
  public LakeState newestSeen() {
    return newest;
  }

  /**
   * The last state at or before a time.
   *
   * @throws NotFoundException when the lake is younger; the message names its first entry
   */
  public LakeState at(Instant time) {
    LakeState state = refresh();
    if (!state.commit().time().isAfter(time)) {
      return state;
    }
    long micros = Values.floorMicros(time);
    EntryRecord record =
        state
            .page()
            .entryAt(micros, pages)
            .orElseThrow(
                () -> {
                  Instant first =
                      state
                          .page()
                          .entry(0, pages)
                          .map(r -> r.commit().time())
                          .orElse(state.commit().time());
                  return new NotFoundException(
                      "At %s there was no lake in %s: its first entry is of %s."
                          .formatted(time, store.location(), first));
                });
    return new LakeState(
        state.lakeId(),
        record.commit(),
        record.hash(),
        state.mustRead(),
        state.mustWrite(),
        LakePage.read(record.page(), pages),
        record.page());
  }

  /**
   * Makes a commit.
   *
   * @throws org.ysteron.error.ConflictException when another commit stands in the way
   * @throws UnknownOutcomeException when the store does not say whether it happened
   */
  public Committed commit(Change change, CommitNote note) {
    return commit(change, note, newestSeen().number());
  }

  /**
   * Makes a commit of what was started at an entry.
   *
   * @param start the entry whose state the change was made from
   */
  public Committed commit(Change change, CommitNote note, long start) {
    return new CommitAttempt(this, change, note, start).run();
  }

  /** The names and values that the writer of an entry gave it. */
  public Map<String, String> labels(long entry) {
    return head(entry).labels();
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

  /** Who, when and why for the entry of a number, at a time after its parent's. */
  CommitStamp info(long number, Instant parentTime, CommitNote note) {
    Instant now = clock.instant().truncatedTo(ChronoUnit.MICROS);
    if (!now.isAfter(parentTime)) {
      if (Duration.between(now, parentTime).compareTo(CLOCK_TOLERANCE) > 0) {
        throw new YsteronException(
            "The clock of this machine says %s, but the newest commit of the lake is of %s. Set the clock right and try again; nothing was changed."
                .formatted(now, parentTime));
      }
      now = parentTime.plus(1, ChronoUnit.MICROS);
    }
    return new CommitStamp(
        number,
        UUID.randomUUID(),
        now,
        note.author(),
        note.program(),
        note.note(),
        note.statement());
  }

  /** Remembers a state that this process committed. */
  synchronized void committed(LakeState state) {
    if (newest == null || newest.number() < state.number()) {
      newest = state;
    }
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
    waiting.micros(random.nextLong(most));
  }

  @Override
  public void close() {
    workers.close();
    store.close();
  }
}
