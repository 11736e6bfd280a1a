package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Stream;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.changes.FileChanges;
import org.ysteron.internal.changes.SerialFinder;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.seen.Scope;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.NextVersion;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Isolation;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Committed;
import org.ysteron.report.SkippedRows;
import org.ysteron.report.TableInfo;

/**
 * All that a transaction read and did, relative to the state from which it started. Applied to a
 * newer state it is first tested against what was committed since ({@link Reconciliation}). For one
 * thread.
 */
public final class ChangeSet implements Change {
  /** The operation of versions that brought rows staged elsewhere, unless they have a word. */
  private static final String STAGED = "apply";

  /** What follows the word of such an operation. */
  private static final String STAGED_AS = " (staged)";

  private final LakeCore core;
  private final LakeState start;
  private final Isolation isolation;
  private final Scope scope;
  private final Map<UUID, TableChange> tables = new LinkedHashMap<>();
  private final Map<String, Also> also = new LinkedHashMap<>();
  private long prepared;
  private Optional<UUID> once = Optional.empty();

  /** Versions whose files are known not to be those that are staged here. */
  private final Set<Brought> looked = new HashSet<>();

  /** What is done to the lake itself. */
  private record Also(Change change, boolean isChange) {}

  /** What a commit brought to a table. */
  private record Brought(UUID table, UUID commit) {}

  /** Starts on a state. */
  public ChangeSet(LakeCore core, LakeState start, Isolation isolation) {
    this.core = core;
    this.start = start;
    this.prepared = start.number();
    this.isolation = isolation;
    this.scope = new Scope(core, start);
  }

  public LakeCore core() {
    return core;
  }

  /** The state from which it started. */
  public LakeState start() {
    return start;
  }

  /**
   * Commits under an id that is known beforehand, and only if no commit since the start has it.
   *
   * @throws AppliedBefore when one has
   */
  public Optional<Committed> commitOnce(UUID id, CommitNote note) {
    once = Optional.of(id);
    return commit(note.withId(id));
  }

  /** The operation of what was staged elsewhere; without a word it is {@code apply}. */
  public static String staged(String word) {
    return word.isEmpty() ? STAGED : word + STAGED_AS;
  }

  private static boolean isStaged(HistoryRecord record) {
    return Stream.of(record.operation().split(" [+] ", -1))
        .anyMatch(each -> each.equals(STAGED) || each.endsWith(STAGED_AS));
  }

  /** A table of this transaction, or of its start, by its id; empty when there was none. */
  public Optional<TableChange> opened(UUID id) {
    TableChange known = tables.get(id);
    return known != null
        ? Optional.of(known).filter(change -> !change.isDropped())
        : start.page().table(id, core.pages()).map(listing -> table(id, listing.name()));
  }

  /** The table of a name as this transaction sees it; empty when there is none. */
  public Optional<TableChange> table(String name) {
    for (TableChange change : tables.values()) {
      if (change.name().equals(name) && !change.isDropped()) {
        return Optional.of(change);
      }
    }
    return start
        .page()
        .table(name, core.pages())
        .filter(listing -> !tables.containsKey(listing.id()))
        .map(this::open);
  }

  /** A table that was there at the start. */
  public TableChange table(UUID id, String name) {
    TableChange known = tables.get(id);
    if (known != null && !known.isDropped()) {
      return known;
    }
    TableListing listing =
        start
            .page()
            .table(id, core.pages())
            .filter(l -> known == null && !l.dropped())
            .orElse(null);
    if (listing == null) {
      throw new ConflictException(
          ConflictException.Kind.TABLE_DROPPED,
          name,
          "Table %s was dropped. Nothing was changed; bring it back first.".formatted(name));
    }
    return open(listing);
  }

  private TableChange open(TableListing listing) {
    TableChange change = new TableChange(scope, this::table, listing);
    tables.put(listing.id(), change);
    return change;
  }

  /** Creates a table; it is there for others when this is committed. */
  public TableChange create(String name, TableForm form, TableSettings settings) {
    TableNames.check(name);
    if (table(name).isPresent()) {
      throw new AlreadyExistsException(
          AlreadyExistsException.Kind.TABLE,
          name,
          "Table %s already exists. Drop or rename it first, or choose another name."
              .formatted(name));
    }
    UUID id = UUID.randomUUID();
    TableChange change =
        new TableChange(
            scope,
            this::table,
            VersionPage.create(id, name, form, settings, VersionPage.draftStamp(scope.stamp())));
    tables.put(id, change);
    return change;
  }

  /**
   * Does something else to the lake in the same commit.
   *
   * @param what what is changed, as a person names it; once only
   * @param isChange whether it is worth a commit if nothing else is changed
   */
  public void also(String what, Change change, boolean isChange) {
    if (also.putIfAbsent(what, new Also(change, isChange)) != null) {
      throw new InvalidInputException(
          "The transaction has moved, set or dropped %s before. Nothing more was changed; do it once in a transaction."
              .formatted(what));
    }
  }

  /** Tells what the tables are that this has opened, as it sees them. */
  void tell(Map<UUID, TableInfo> told) {
    tables.forEach(
        (id, table) -> {
          if (table.isDropped()) {
            told.remove(id);
          } else if (table.isChanged()) {
            VersionPage draft = table.draft();
            told.put(
                id,
                new TableInfo(id, table.name(), draft.version(), false, draft.record().totals()));
          }
        });
  }

  /** Drops a table. */
  public void drop(TableChange table) {
    table.setDropped();
  }

  /** Whether a commit would change anything. */
  public boolean isChanged() {
    return tables.values().stream().anyMatch(TableChange::isChanged)
        || also.values().stream().anyMatch(Also::isChange);
  }

  @Override
  public void awaitDurable() {
    scope.awaitDurable();
  }

  /**
   * Looks for keys that came since, and for where rows are now whose changes have to follow, while
   * others may commit: what is known then needs no other look.
   */
  @Override
  public void prepare(LakeState newest) {
    for (TableChange change : tables.values()) {
      if (needsAhead(change)) {
        newest
            .page()
            .table(change.start().id(), core.pages())
            .filter(listing -> !listing.dropped())
            .ifPresent(listing -> lookAhead(change, listing));
      }
    }
    prepared = newest.number();
  }

  private static boolean needsAhead(TableChange change) {
    return !change.keyTests().isEmpty() || change.moved().areAny();
  }

  private void lookAhead(TableChange change, TableListing listing) {
    VersionPage now = VersionPage.read(listing.page(), core.pages());
    if (!change.keyTests().isEmpty()) {
      change.lookAhead(now);
    }
    if (change.moved().areAny()
        && moved(change).isEmpty()
        && now.version() != change.start().version()) {
      try {
        Conflicts conflicts = new Conflicts(change.start(), listing, core.pages());
        Reconciliation.meet(change.work(), now, conflicts, isolation, core.pages());
      } catch (ConflictException e) {
        return; // it is met again when this is applied, and told then
      }
    }
  }

  @Override
  public boolean isPrepared(LakeState base) {
    return base.number() == prepared || tables.values().stream().noneMatch(ChangeSet::needsAhead);
  }

  @Override
  public void apply(Staging staging) {
    refuseAgain(staging); // before anything is compared with what it may have done itself
    also.values().forEach(more -> more.change().apply(staging));
    for (TableChange change : tables.values()) {
      if (change.isCreated()) {
        create(staging, change);
      } else {
        follow(staging, change);
      }
    }
  }

  private static void create(Staging staging, TableChange change) {
    if (change.isDropped()) {
      return;
    }
    TableEdits.refuseTaken(staging, change.name());
    VersionPage last = change.draft();
    TableForm form = last.form();
    VersionPage page =
        VersionPage.create(last.id(), last.name(), form, last.settings(), staging.commit());
    TableNumbers numbers = TableNumbers.of(form);
    NextVersion next = new NextVersion(page, numbers, staging.pages(), staging.batch(page.id()));
    Replay nothing = Replay.nothing(form, change);
    addFiles(next, change, Reconciled.alone(change), nothing);
    staging.put(next.build(false), next.numbers(), false);
  }

  /** A rewind to another version than the one that the table was at. */
  private static Optional<Rewinding> moved(TableChange change) {
    return change.rewinding().filter(Rewinding::isMove);
  }

  /**
   * Looks for a commit of the same id among the versions since the start, of any table, and for
   * files and numbers of named writers that were there before.
   */
  private void refuseAgain(Staging staging) {
    for (TableChange change : tables.values()) {
      if (once.isEmpty() && change.staged().isEmpty()) {
        continue;
      }
      if (change.hasStep() && !change.isCreated()) {
        TableListing listing = TableEdits.existing(staging, change.start().id(), change.name());
        change.step(
            TableHead.read(listing.head(), staging.pages())
                .writer(change.writerName(), staging.pages()));
      }
      staging
          .table(change.start().id())
          .map(listing -> TableHistory.of(listing, staging.pages()))
          .ifPresent(history -> refuseAgain(change, history));
    }
  }

  /**
   * Goes through the versions since the start. Staged files are looked for in each that a staged
   * change made, whatever became of them since: packed or removed, their rows were there once.
   */
  private void refuseAgain(TableChange change, TableHistory history) {
    List<HistoryRecord> staged = new ArrayList<>();
    for (long version = history.newest().version(); version > change.start().version(); version--) {
      Optional<HistoryRecord> record = history.recordOf(version);
      if (record.isEmpty()) {
        throw ExpiredException.ofVersion(
            history.newest().name(),
            version,
            "Version %d of table %s has expired, so it is unknown whether it applied this staged change. Nothing was changed; stage it again."
                .formatted(version, history.newest().name()),
            null);
      }
      if (once.isPresent() && record.get().commit().commitId().equals(once.get())) {
        throw new AppliedBefore();
      }
      if (isStaged(record.get()) && !change.staged().isEmpty()) {
        staged.add(record.get());
      }
    }
    for (HistoryRecord record : staged) {
      refuseStaged(change, record, history);
    }
  }

  /** Refuses files that a version has brought; those of one version are looked at once. */
  private void refuseStaged(TableChange change, HistoryRecord record, TableHistory history) {
    if (!looked.add(new Brought(change.start().id(), record.commit().commitId()))) {
      return;
    }
    PageStore pages = core.pages();
    VersionPage before =
        record.version() == change.start().version() + 1
            ? change.start()
            : history.pageOf(history.byNumber(record.version() - 1));
    for (FileEntry file : FileChanges.between(before, history.pageOf(record), pages).came()) {
      if (change.staged().contains(file.id())) {
        throw new InvalidInputException(
            "Rows staged for table %s were already added by its version %d, as data file %d. Nothing was changed; stage them again to add them twice."
                .formatted(change.name(), record.version(), file.numbers().number()));
      }
    }
  }

  private void follow(Staging staging, TableChange change) {
    VersionPage first = change.start();
    TableListing listing = TableEdits.existing(staging, first.id(), change.name());
    VersionPage newest = VersionPage.read(listing.page(), staging.pages());
    change.rewinding().ifPresent(asked -> asked.checkStill(newest));
    VersionPage now = moved(change).map(r -> r.started(staging, listing, newest)).orElse(newest);
    Conflicts conflicts = new Conflicts(first, listing, staging.pages());
    Replay replay;
    TableSettings settings;
    try {
      replay = new Replay(change.work(), now.form(), listing.numbers());
      settings = change.settings(now.settings());
    } catch (ReplayCollision e) {
      throw conflicts.of(e);
    }
    Reconciled with =
        now.version() == first.version()
            ? Reconciled.alone(change)
            : Reconciliation.meet(change.work(), now, conflicts, isolation, staging.pages());
    if (!change.isChanged()) {
      return;
    }
    if (change.isDropped()) {
      staging.put(staging.next(listing, "drop"), listing.numbers(), true);
      return;
    }
    Optional<WriterRecord> step =
        change.hasStep()
            ? change.step(
                TableHead.read(listing.head(), staging.pages())
                    .writer(change.writerName(), staging.pages()))
            : Optional.empty();
    LateProofs proofs = new LateProofs(change.work(), replay, with, conflicts, staging.pages());
    Next next = new Next(staging, listing, change, with, replay, settings);
    change.skip(SkippedRows.NONE);
    if (change.skipsRejected() && proofs.maySuffer()) {
      Built trial = next.build(new PageBatch(), false);
      LateProofs.Misfits misfits = proofs.misfits(trial.page, trial.own);
      change.skip(misfits.told());
      with = with.without(misfits.rows());
      next = new Next(staging, listing, change, with, replay, settings);
    }
    Built built = next.build(staging.batch(listing.id()), step.isEmpty());
    proofs.prove(built.page, built.own);
    staging.put(built.page, built.numbers, false, step);
  }

  /** A version of a table, and the transaction's files in it by the numbers they have here. */
  private record Built(VersionPage page, TableNumbers numbers, Map<Long, FileEntry> own) {}

  /** All that the next version of a table is made of. */
  private record Next(
      Staging staging,
      TableListing listing,
      TableChange change,
      Reconciled with,
      Replay replay,
      TableSettings settings) {

    /** The earlier form, or what was made of it. */
    private TableForm formOf(TableListing now) {
      TableForm earlier = change.start().form();
      return change.isAltered() ? replay.form().after(earlier, now.numbers()) : earlier;
    }

    Built build(PageBatch pages, boolean onlyRows) {
      VersionPage page = staging.next(listing, change.operation());
      if (moved(change).isPresent()) {
        page =
            moved(change)
                .get()
                .next(staging, listing, change.operation(), formOf(listing))
                .withSettings(settings);
      } else if (change.isAltered()) {
        page =
            page.withForm(replay.form(), listing.numbers(), staging.pages(), pages)
                .withSettings(settings);
      }
      NextVersion next = new NextVersion(page, listing.numbers(), staging.pages(), pages);
      with.removed().forEach(next::remove);
      with.masked().forEach(next::mask);
      Map<Long, FileEntry> own = addFiles(next, change, with, replay);
      VersionPage built = next.build(onlyRows && !change.isAltered() && moved(change).isEmpty());
      return new Built(built, next.numbers().with(built.form()), own);
    }
  }

  private static Map<Long, FileEntry> addFiles(
      NextVersion next, TableChange change, Reconciled with, Replay replay) {
    Map<Long, FileEntry> own = new TreeMap<>();
    long number = change.numbers().file();
    for (StagedFile file : change.files()) {
      RoaringBitmap mask = with.ownMask(number);
      if (mask.getLongCardinality() < file.rows()) { // else all its rows were removed again
        own.put(number, next.add(replay.inTable(file), mask, born(file, mask, change)));
      }
      number++;
    }
    return own;
  }

  /** How many of the masked rows of an own file were born with it; the others were moved. */
  private static long born(StagedFile file, RoaringBitmap mask, TableChange change) {
    if (mask.isEmpty() || file.rowsBorn() == 0) {
      return 0;
    }
    if (file.rowsBorn() == file.rows()) {
      return mask.getLongCardinality();
    }
    change.awaitFiles();
    FileEntry entry = FileEntry.of(file, 0, 0, 0);
    return new SerialFinder(change.context(), change.draft()).untold(entry, mask);
  }

  /** Commits; empty when there is nothing to commit. */
  public Optional<Committed> commit(CommitNote note) {
    if (!isChanged()) {
      checkRewound();
      return Optional.empty();
    }
    return Optional.of(core.commit(this, note, start));
  }

  /** A rewind to the version that is there does nothing, if it still is. */
  private void checkRewound() {
    for (TableChange change : tables.values()) {
      if (change.rewinding().isPresent()) {
        LakeState newest = core.refresh();
        newest
            .page()
            .table(change.start().id(), core.pages())
            .map(listing -> VersionPage.read(listing.page(), core.pages()))
            .ifPresent(change.rewinding().get()::checkStill);
      }
    }
  }

  /** Does a statement that changes a table; when it fails, nothing of it is left. */
  public <T> T statement(TableChange table, Function<TableChange, T> work) {
    int before = scope.writers();
    Runnable back = table.mark();
    try {
      return work.apply(table);
    } catch (RuntimeException e) {
      scope.discardFrom(before);
      back.run();
      throw e;
    }
  }

  /** What brings back what is now, when something fails that has changed some of it. */
  Runnable mark() {
    int writers = scope.writers();
    Map<UUID, Runnable> marks = new LinkedHashMap<>();
    tables.forEach((id, table) -> marks.put(id, table.mark()));
    Set<String> alsoThen = Set.copyOf(also.keySet());
    return () -> {
      scope.discardFrom(writers);
      tables.keySet().retainAll(marks.keySet());
      marks.values().forEach(Runnable::run);
      also.keySet().retainAll(alsoThen);
    };
  }

  /** Deletes the data files that were written. */
  public void discard() {
    scope.discard();
  }
}
