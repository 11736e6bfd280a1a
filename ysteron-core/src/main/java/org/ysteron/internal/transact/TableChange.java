package org.ysteron.internal.transact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.UUID;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.changes.FileChanges;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.keys.BroughtKeys;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.seen.Altering;
import org.ysteron.internal.seen.CurveQuantiles;
import org.ysteron.internal.seen.Draft;
import org.ysteron.internal.seen.KeyTest;
import org.ysteron.internal.seen.MovedRows;
import org.ysteron.internal.seen.Scope;
import org.ysteron.internal.seen.SeenTable;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.Alteration;
import org.ysteron.option.KeyTesting;
import org.ysteron.option.TableSettings;
import org.ysteron.report.SkippedRows;

/**
 * What a transaction does to one table, relative to the version that it started from. For one
 * thread.
 */
public final class TableChange extends SeenTable {
  private final Optional<TableListing> listing;
  private final Others others;
  private final MovedRows moved = new MovedRows(this);
  private final List<Read> reads = new ArrayList<>();
  private final Set<String> operations = new LinkedHashSet<>();
  private final List<Alteration> alterations = new ArrayList<>();
  private final List<KeyTest> keyTests = new ArrayList<>();
  private final Set<UUID> staged = new HashSet<>();
  private Optional<Rewinding> rewinding = Optional.empty();
  private WriterStep step;
  private WriterRecord stepped;
  private boolean dropped;
  private boolean isFinal;
  private boolean skipsRejected;
  private SkippedRows skipped = SkippedRows.NONE;
  private SkippedRows skippedBefore = SkippedRows.NONE;

  /** Finds other tables of the same transaction. */
  @FunctionalInterface
  interface Others {
    TableChange table(UUID id, String name);
  }

  /** Starts from what a table is. */
  TableChange(Scope scope, Others others, TableListing listing) {
    super(
        scope, VersionPage.read(listing.page(), scope.context().pages()), listing.numbers(), false);
    this.listing = Optional.of(listing);
    this.others = others;
  }

  /** Starts from the first version of a table that is made here. */
  TableChange(Scope scope, Others others, VersionPage start) {
    super(scope, start, TableNumbers.of(start.form()), true);
    this.listing = Optional.empty();
    this.others = others;
  }

  /** What was done so far, as a commit needs it. */
  TableWork work() {
    return new TableWork(this, reads, keyTests, formAlterations(), isAltered(), moved, isFinal);
  }

  /** What was remembered of a named writer at the start. */
  public Optional<WriterRecord> writer(String writer) {
    PageStore pages = context().pages();
    return listing.flatMap(known -> TableHead.read(known.head(), pages).writer(writer, pages));
  }

  boolean isDropped() {
    return dropped;
  }

  void setDropped() {
    dropped = true;
  }

  /** Whether the commit makes a version of this table. */
  boolean isChanged() {
    return isCreated() || dropped || step != null || !operations.isEmpty();
  }

  /**
   * A writer of new rows.
   *
   * @param now when their statement began
   */
  public TableWriter writer(Instant now) {
    return writer(TableWriter.Hidden.NONE, true, now);
  }

  /**
   * A writer of new forms of rows, which keep their serials, and of new rows.
   *
   * @param newKeys whether some may have other keys than rows had before
   * @param now when their statement began
   */
  public TableWriter updatingWriter(boolean newKeys, Instant now) {
    return writer(TableWriter.Hidden.SERIALS, newKeys, now);
  }

  /** A writer of rows that are only moved, with their serials and births. */
  public TableWriter movingWriter() {
    return writer(TableWriter.Hidden.BIRTHS, false, context().now());
  }

  private TableWriter writer(TableWriter.Hidden hidden, boolean newKeys, Instant now) {
    boolean tested = newKeys && KeyRule.of(draft()) != KeyTesting.DECLARED;
    boolean onlyFirst = skipsRejected && hidden == TableWriter.Hidden.NONE;
    Optional<BroughtKeys> keys =
        tested ? Optional.of(new BroughtKeys(draft().schema(), onlyFirst)) : Optional.empty();
    long entry = scope().start().number();
    return scope()
        .register(
            new TableWriter(scope().core().store(), workers(), draft(), entry, hidden, keys, now));
  }

  /** Another table, or this one, as the same transaction sees it. */
  public TableChange other(UUID id, String otherName) {
    return others.table(id, otherName);
  }

  /** Remembers that rows were looked for, and used as they were found; for any thread. */
  public synchronized void reads(Condition condition) {
    if (!isCreated()) {
      // What was altered here cannot be told to others by its columns, so it counts as everything.
      Condition told = isAltered() ? Condition.all() : condition;
      Filter filter = start().filter(told, context().pages());
      reads.add(new Read(filter, Optional.empty(), Read.Kind.ROWS));
    }
  }

  /** What brings back what is now, when a statement fails that has changed some of it. */
  @Override
  public Runnable mark() {
    Runnable rows = super.mark();
    List<List<?>> lists = List.of(reads, alterations, keyTests);
    int[] sizes = lists.stream().mapToInt(List::size).toArray();
    Set<String> operationsThen = new LinkedHashSet<>(operations);
    Optional<Rewinding> rewindingThen = rewinding;
    boolean droppedThen = dropped;
    SkippedRows skippedThen = skippedBefore;
    Set<UUID> stagedThen = Set.copyOf(staged);
    WriterStep stepThen = step;
    return () -> {
      staged.retainAll(stagedThen);
      step = stepThen;
      rows.run();
      rewinding = rewindingThen;
      dropped = droppedThen;
      skippedBefore = skippedThen;
      for (int i = 0; i < sizes.length; i++) {
        lists.get(i).subList(sizes[i], lists.get(i).size()).clear();
      }
      operations.clear();
      operations.addAll(operationsThen);
    };
  }

  /** The table as it will be after a statement that is not taken yet. */
  public Draft after(Effect effect) {
    return after(effect.edits());
  }

  /** Takes a statement's effect; the table as the transaction sees it has it from now on. */
  public void take(Effect effect, Draft after) {
    take(effect.edits(), after);
    remember(effect);
  }

  private void remember(Effect effect) {
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
        throw found.refusal(name(), advice);
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
      test =
          Optional.of(new KeyTest(this, keys, effect.files(), numbers().file() + files().size()));
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
      throw found.refusal(name(), "Upsert them, or skip the rows whose keys exist.");
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
    long number = numbers().file() + files().size() + newFiles - written.size();
    return writer
        .keys()
        .filter(keys -> keys.rows() > 0)
        .map(keys -> new KeyTest(this, keys, written, number));
  }

  /**
   * Looks for the keys of this transaction's rows among the rows born since, in a later version.
   */
  void lookAhead(VersionPage now) {
    if (now.version() == start().version()) {
      return;
    }
    List<KeyTest.Looked> came =
        FileChanges.between(start(), now, context().pages()).cameWithBorn(seen()).stream()
            .map(file -> new KeyTest.Looked(file, OptionalLong.of(seen())))
            .toList();
    keyTests.forEach(test -> test.ahead(now, came));
  }

  /** Where rows of other files were moved to. */
  MovedRows moved() {
    return moved;
  }

  /** What has to be tested again beside what came since. */
  List<KeyTest> keyTests() {
    return keyTests;
  }

  /** Remembers what a statement read that changed nothing. */
  public void readOnly(Read read) {
    reads.add(read);
  }

  /** Adds new data files. */
  public void append(List<StagedFile> staged) {
    Effect effect = new Effect("append", staged, List.of(), List.of());
    takeLater(effect.edits()); // most appends are committed without another look at the table
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
    take(Altering.altered(this, current(), placed, scope().batch()));
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
    if (!isChanged() && target == start().version()) {
      rewinding = Optional.of(new Rewinding(target, target)); // it must still be that one then
      return;
    }
    if (isChanged()) {
      throw new InvalidInputException(
          "Table %s was already changed in this transaction; a rewind must come before other changes of its table. The rewind changed nothing."
              .formatted(name()));
    }
    PageStore pages = context().pages();
    VersionPage earlier = Rewinding.earlier(target, history());
    rewinding = Optional.of(new Rewinding(target, start().version()));
    startFrom(start().rewound(earlier, earlier.form(), pages, scope().batch()));
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
                        .formatted(name()))),
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
        if (!start().settings().value(set.name()).equals(now.value(set.name()))) {
          throw new ReplayCollision("changed the setting " + set.name(), null);
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

  /**
   * What a named writer does with this commit, by rows that were staged.
   *
   * @param operation its word in the history, also when there are no rows
   */
  public void step(WriterStep writerStep, String operation) {
    if (step != null) {
      throw new InvalidInputException(
          "The transaction already has number %d of writer %s of table %s. Nothing more was changed; commit each number by itself."
              .formatted(step.sequence(), step.writer(), name()));
    }
    step = writerStep;
    operations.add(operation);
  }

  /** What a named writer does with this commit. */
  public void step(WriterStep writerStep) {
    step = writerStep;
  }

  Optional<WriterRecord> step(Optional<WriterRecord> before) {
    stepped = step.after(before, name());
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

  /** For the history: {@code append + delete}. */
  String operation() {
    if (operations.isEmpty()) {
      return step == null ? "nothing" : "open writer";
    }
    return String.join(" + ", operations);
  }
}
