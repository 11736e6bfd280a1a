package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.keys.BroughtKeys;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeDiff;
import org.ysteron.internal.work.Workers;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.Alteration;
import org.ysteron.option.KeyTesting;
import org.ysteron.option.TableSettings;
import org.ysteron.report.SkippedRows;

/**
 * What a transaction does to one table, relative to the version that it started from, and the table
 * as the transaction sees it. For one thread.
 */
public final class TableChange {
  private final ChangeSet set;
  private final String name;
  private VersionPage start;
  private final boolean created;
  private final List<StagedFile> files = new ArrayList<>();
  private final Map<Long, Touch> touched = new TreeMap<>();
  private final MovedRows moved = new MovedRows(this);
  private final List<Read> reads = new ArrayList<>();
  private final Set<String> operations = new LinkedHashSet<>();
  private final List<Effect> pending = new ArrayList<>();
  private final List<Alteration> alterations = new ArrayList<>();
  private final TableNumbers first;
  private final Optional<TableListing> listing;
  private Draft draft;
  private Optional<Rewinding> rewinding = Optional.empty();
  private final Set<UUID> staged = new HashSet<>();
  private WriterStep step;
  private WriterRecord stepped;
  private boolean dropped;
  private boolean skipsRejected;
  private boolean isFinal;
  private SkippedRows skipped = SkippedRows.NONE;
  private SkippedRows skippedBefore = SkippedRows.NONE;
  private final List<KeyTest> keyTests = new ArrayList<>();

  /** Starts from what a table is. */
  TableChange(ChangeSet set, TableListing listing) {
    this.set = set;
    this.start = VersionPage.read(listing.page(), set.context().pages());
    this.name = start.name();
    this.created = false;
    this.listing = Optional.of(listing);
    this.first = listing.numbers();
    this.draft = new Draft(start.draft(set.stamp()), first);
  }

  /** Starts from the first version of a table that is made here. */
  TableChange(ChangeSet set, VersionPage start) {
    this.set = set;
    this.start = start;
    this.name = start.name();
    this.created = true;
    this.listing = Optional.empty();
    this.first = TableNumbers.of(start.form());
    this.draft = new Draft(start, first);
  }

  VersionPage start() {
    return start;
  }

  /** What the table gave out next at the start. */
  TableNumbers numbers() {
    return first;
  }

  /** What the table gives out next after what was done here. */
  TableNumbers numbersNow() {
    return current().numbers();
  }

  /** The ordinal of the last commit that the transaction has seen. */
  long seen() {
    return set.stamp().ordinal();
  }

  /** The version of the layout as of now; no other that was set here is in the table later. */
  long layoutVersion() {
    return draft.page().layoutVersion();
  }

  /** What was remembered of a named writer at the start. */
  public Optional<WriterRecord> writer(String writer) {
    PageStore pages = set.context().pages();
    return listing.flatMap(known -> TableHead.read(known.head(), pages).writer(writer, pages));
  }

  public String name() {
    return name;
  }

  /** The table as the transaction sees it now. */
  public VersionPage draft() {
    return current().page();
  }

  private Draft current() {
    for (Effect effect : pending) {
      draft = after(draft, effect);
    }
    pending.clear();
    return draft;
  }

  public ReadContext context() {
    return set.context();
  }

  public Workers workers() {
    return set.core().workers();
  }

  /** Waits until what this transaction wrote can be read. */
  void awaitFiles() {
    set.awaitDurable();
  }

  boolean isCreated() {
    return created;
  }

  boolean isDropped() {
    return dropped;
  }

  void setDropped() {
    dropped = true;
  }

  /** Whether the commit makes a version of this table. */
  boolean isChanged() {
    return created || dropped || step != null || !operations.isEmpty();
  }

  /** Whether a file was written by this transaction. */
  public boolean isOwn(FileEntry file) {
    return isOwn(file.numbers().number());
  }

  public boolean isOwn(long number) {
    return number >= first.file();
  }

  /** A serial that {@link #isLasting}, else null. */
  public Long lasting(long serial) {
    return isLasting(serial) ? (Long) serial : null;
  }

  /**
   * Whether a serial stays a row's when it is written again; those of rows of this transaction are
   * not given before the commit.
   */
  public boolean isLasting(long serial) {
    return serial < first.serial();
  }

  /** A writer of new rows. */
  public TableWriter writer() {
    return writer(TableWriter.Hidden.NONE, true);
  }

  /**
   * A writer of new forms of rows, which keep their serials, and of new rows.
   *
   * @param newKeys whether some may have other keys than rows had before
   */
  public TableWriter updatingWriter(boolean newKeys) {
    return writer(TableWriter.Hidden.SERIALS, newKeys);
  }

  /** A writer of rows that are only moved, with their serials and births. */
  public TableWriter movingWriter() {
    return writer(TableWriter.Hidden.BIRTHS, false);
  }

  private TableWriter writer(TableWriter.Hidden hidden, boolean newKeys) {
    boolean tested = newKeys && KeyRule.of(draft()) != KeyTesting.DECLARED;
    boolean onlyFirst = skipsRejected && hidden == TableWriter.Hidden.NONE;
    Optional<BroughtKeys> keys =
        tested ? Optional.of(new BroughtKeys(draft().schema(), onlyFirst)) : Optional.empty();
    return set.register(
        new TableWriter(
            set.core().store(), set.core().workers(), draft(), set.startEntry(), hidden, keys));
  }

  /** Another table, or this one, as the same transaction sees it. */
  public TableChange other(UUID id, String otherName) {
    return set.table(id, otherName);
  }

  /** Remembers that rows were looked for, and used as they were found. */
  public void reads(Condition condition) {
    if (!created) {
      // What was altered here cannot be told to others by its columns, so it counts as everything.
      Condition told = isAltered() ? Condition.all() : condition;
      Filter filter = start.filter(told, set.context().pages());
      reads.add(new Read(filter, Optional.empty(), Read.Kind.ROWS));
    }
  }

  /** What brings back what is now, when a statement fails that has changed some of it. */
  Runnable mark() {
    Draft drafted = current();
    int[] sizes = {files.size(), reads.size(), alterations.size(), keyTests.size()};
    Map<Long, Touch> touchedThen = new TreeMap<>(touched);
    Set<String> operationsThen = new LinkedHashSet<>(operations);
    VersionPage startThen = start;
    Optional<Rewinding> rewindingThen = rewinding;
    return () -> {
      draft = drafted;
      start = startThen;
      rewinding = rewindingThen;
      pending.clear();
      List<List<?>> lists = List.of(files, reads, alterations, keyTests);
      for (int i = 0; i < sizes.length; i++) {
        lists.get(i).subList(sizes[i], lists.get(i).size()).clear();
      }
      touched.clear();
      touched.putAll(touchedThen);
      operations.clear();
      operations.addAll(operationsThen);
    };
  }

  /** The table as it will be after a statement that is not taken yet. */
  public Draft after(Effect effect) {
    return after(current(), effect);
  }

  private Draft after(Draft before, Effect effect) {
    return effect.appliedTo(before, set.context().pages(), set.batch());
  }

  /** Takes a statement's effect; the table as the transaction sees it has it from now on. */
  public void take(Effect effect, Draft after) {
    draft = after;
    remember(effect);
  }

  private void remember(Effect effect) {
    files.addAll(effect.files());
    for (Touch touch : effect.touches()) {
      touched.merge(touch.entry().numbers().number(), touch, TableChange::both);
    }
    reads.addAll(effect.reads());
    operations.add(effect.operation());
  }

  /**
   * Takes a statement's effect when the rows that it writes may have the keys that they have.
   *
   * @param writer what wrote them, to the last files of the effect; empty for none
   */
  public void take(Effect effect, Optional<TableWriter> writer) {
    take(
        effect,
        writer.flatMap(written -> keyTest(written, effect.files().size())),
        "Give the rows other keys, or delete the other rows first.");
  }

  private void take(Effect effect, Optional<KeyTest> test, String advice) {
    Draft after = after(effect);
    if (test.isPresent()) {
      KeyTest.Found found = test.get().atStatement(after.page());
      if (!found.isNothing()) {
        throw found.refusal(name, advice);
      }
      test.get().keepForCommit(keyTests);
    }
    take(effect, after);
  }

  /**
   * Takes an effect whose new rows were written elsewhere; their keys are read from their files.
   */
  public void takeStaged(Effect effect) {
    effect.files().forEach(file -> staged.add(file.id()));
    long rows = effect.files().stream().mapToLong(StagedFile::rows).sum();
    Optional<KeyTest> test = Optional.empty();
    if (rows > 0 && KeyRule.of(draft()) != KeyTesting.DECLARED) {
      BroughtKeys keys = BroughtKeys.unread(draft().schema(), rows);
      test = Optional.of(new KeyTest(this, keys, effect.files(), first.file() + files.size()));
    }
    take(effect, test, "Stage other rows, or remove those that are there.");
  }

  /** Adds the rows that a writer has written. */
  public void append(TableWriter writer) {
    List<StagedFile> staged = writer.finish();
    Optional<KeyTest> test = keyTest(writer, staged.size());
    Effect effect = new Effect("append", staged, List.of(), List.of());
    if (test.isEmpty()) {
      append(staged);
      return;
    }
    Draft after = after(effect);
    KeyTest.Found found = test.get().atStatement(after.page());
    if (!found.isNothing() && !skipsRejected) {
      throw found.refusal(name, "Upsert them, or skip the rows whose keys exist.");
    }
    skippedBefore = skippedBefore.and(writer.keys().orElseThrow().skipped());
    test.get().keepForCommit(keyTests);
    take(effect, after);
    if (!found.isNothing()) {
      Effect without = new Effect("append", List.of(), found.touches(), List.of());
      take(without, after(without));
      skippedBefore = skippedBefore.and(found.count(), found.told());
    }
  }

  /** The test of what a writer wrote, to the last of so many new files. */
  private Optional<KeyTest> keyTest(TableWriter writer, int newFiles) {
    List<StagedFile> written = writer.written();
    long number = first.file() + files.size() + newFiles - written.size();
    return writer
        .keys()
        .filter(keys -> keys.rows() > 0)
        .map(keys -> new KeyTest(this, keys, written, number));
  }

  /**
   * Looks for the keys of this transaction's rows among the rows born since, in a later version.
   */
  void lookAhead(VersionPage now) {
    if (now.version() == start.version()) {
      return;
    }
    PageStore pages = set.context().pages();
    List<KeyTest.Looked> came = new ArrayList<>();
    TreeDiff<FileEntry, FileSummary> diff = start.fileTree(pages).diff(now.fileTree(pages));
    for (var next = diff.next(); next.isPresent(); next = diff.next()) {
      FileEntry file = next.get().before().isEmpty() ? next.get().after().orElseThrow() : null;
      if (file != null && file.hasBornSince(seen())) {
        came.add(new KeyTest.Looked(file, OptionalLong.of(seen())));
      }
    }
    keyTests.forEach(test -> test.ahead(now, came));
  }

  /** What has to be tested again beside what came since. */
  List<KeyTest> keyTests() {
    return keyTests;
  }

  /** Remembers what a statement read that changed nothing. */
  public void readOnly(Read read) {
    reads.add(read);
  }

  private static Touch both(Touch before, Touch now) {
    RoaringBitmap rows = RoaringBitmap.or(before.rows(), now.rows());
    return new Touch(before.entry(), rows, before.gone() || now.gone());
  }

  /** Adds new data files. */
  public void append(List<StagedFile> staged) {
    Effect effect = new Effect("append", staged, List.of(), List.of());
    pending.add(effect); // most appends are committed without another look at the table
    remember(effect);
  }

  /** Alters what the table takes or how it lays it out; proves what that needs. */
  public void alter(List<Alteration> changes) {
    alter(changes, "alter");
  }

  /** Alters the table for rows that need it. */
  public void grow(List<Alteration> changes) {
    alter(changes, "grow");
  }

  private void alter(List<Alteration> changes, String operation) {
    if (changes.isEmpty()) {
      return;
    }
    List<Alteration> placed = CurveQuantiles.placed(this, changes);
    draft = Altering.altered(this, current(), placed, set.batch());
    alterations.addAll(placed);
    operations.add(operation);
  }

  /**
   * Makes an earlier version current again.
   *
   * @param target its number; that of now changes nothing
   * @throws InvalidInputException when something was done to the table before
   */
  public void rewind(long target) {
    if (!isChanged() && target == start.version()) {
      rewinding = Optional.of(new Rewinding(target, target)); // it must still be that one then
      return;
    }
    if (isChanged()) {
      throw new InvalidInputException(
          "Table %s was already changed in this transaction; a rewind must come before other changes of its table. The rewind changed nothing."
              .formatted(name));
    }
    PageStore pages = context().pages();
    VersionPage earlier = Rewinding.earlier(target, history());
    rewinding = Optional.of(new Rewinding(target, start.version()));
    start = start.rewound(earlier, earlier.form(), pages, set.batch());
    draft = new Draft(start.draft(set.stamp()), first.with(start.form()));
    operations.add("rewind");
  }

  /**
   * The versions of the table as the transaction finds them.
   *
   * @throws InvalidInputException when the table is made in this transaction
   */
  public TableHistory history() {
    return TableHistory.of(
        listing.orElseThrow(
            () ->
                new InvalidInputException(
                    "Table %s is created in this transaction and has no versions yet."
                        .formatted(name))),
        context().pages());
  }

  /** The ids of files that were written elsewhere, and may have been committed before. */
  Set<UUID> staged() {
    return staged;
  }

  Optional<Rewinding> rewinding() {
    return rewinding;
  }

  /** Nobody can make the rows again: those refused at the commit are refused for good. */
  public void setFinal() {
    isFinal = true;
  }

  boolean isFinal() {
    return isFinal;
  }

  /** Of new rows that do not fit any more at the commit only those are to be refused. */
  public void setSkipsRejected() {
    skipsRejected = true;
  }

  boolean skipsRejected() {
    return skipsRejected;
  }

  void skip(SkippedRows rows) {
    skipped = rows;
  }

  /** Leaves a row out before the commit. */
  void skipBefore(String reason) {
    skippedBefore = skippedBefore.and(1, reason);
  }

  /** The rows that were left out, of what was written and by the commit. */
  public SkippedRows skipped() {
    return skippedBefore.and(skipped);
  }

  boolean isAltered() {
    return !alterations.isEmpty();
  }

  /** The settings as they are to be, from those of now. */
  TableSettings settings(TableSettings now) {
    TableSettings changed = now;
    for (Alteration alteration : alterations) {
      if (alteration instanceof Alteration.SetSetting set) {
        if (!start.settings().value(set.name()).equals(now.value(set.name()))) {
          throw new Replay.Collision("changed the setting " + set.name(), null);
        }
        changed = changed.with(set.name(), set.value());
      }
    }
    return changed;
  }

  /** The alterations of the form. */
  List<Alteration> formAlterations() {
    return alterations.stream().filter(a -> !(a instanceof Alteration.SetSetting)).toList();
  }

  /** What a named writer does with this commit. */
  public void step(WriterStep writerStep) {
    step = writerStep;
  }

  Optional<WriterRecord> step(Optional<WriterRecord> before) {
    stepped = step.after(before, name);
    return Optional.of(stepped);
  }

  /** What the table remembers of the named writer once this is committed. */
  public WriterRecord stepped() {
    return stepped;
  }

  boolean hasStep() {
    return step != null;
  }

  String writerName() {
    return step.writer();
  }

  List<StagedFile> files() {
    return files;
  }

  /** The transaction's own files, as its draft has them, to which a file's rows were moved. */
  List<FileEntry> successors(long number) {
    List<FileEntry> successors = new ArrayList<>();
    for (int i = 0; i < files.size(); i++) {
      if (files.get(i).holdsRowsOf(number)) {
        byte[] key = files.get(i).key(first.file() + i);
        draft().fileTree(set.context().pages()).get(key).ifPresent(successors::add);
      }
    }
    return successors;
  }

  /** The number of a file, and of those from which rows were moved to it in this transaction. */
  public Set<Long> origins(long number) {
    Set<Long> numbers = new TreeSet<>(Set.of(number));
    if (isOwn(number)) {
      files
          .get((int) (number - first.file()))
          .origin()
          .ifPresent(origin -> numbers.addAll(origin.files()));
    }
    return numbers;
  }

  /** The rows of a file that count. */
  public RoaringBitmap live(FileEntry file) {
    RoaringBitmap all = new RoaringBitmap();
    all.add(0L, file.rows());
    all.andNot(file.maskedPositions(context().pages()));
    return all;
  }

  /** Where rows of other files were moved to. */
  MovedRows moved() {
    return moved;
  }

  /** By file number; of files written here, too. */
  Map<Long, Touch> touched() {
    return touched;
  }

  List<Read> reads() {
    return reads;
  }

  /** For the history: {@code append + delete}. */
  String operation() {
    if (operations.isEmpty()) {
      return step == null ? "nothing" : "open writer";
    }
    return String.join(" + ", operations);
  }
}
