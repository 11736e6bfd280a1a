package org.ysteron.change;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Filter;
import org.ysteron.file.Workers;
import org.ysteron.read.ReadContext;
import org.ysteron.table.Alteration;
import org.ysteron.table.FileEntry;
import org.ysteron.table.FormEditor;
import org.ysteron.table.Proof;
import org.ysteron.table.StagedFile;
import org.ysteron.table.TablePage;
import org.ysteron.table.TableProperties;
import org.ysteron.table.WriterRecord;

/**
 * What a transaction does to one table, relative to the version that it started from, and the table
 * as the transaction sees it. For one thread.
 */
public final class TableChange {
  private final ChangeSet set;
  private final String name;
  private final TablePage start;
  private final boolean created;
  private final List<StagedFile> files = new ArrayList<>();
  private final Map<Long, Touch> touched = new TreeMap<>();
  private final List<Read> reads = new ArrayList<>();
  private final Set<String> operations = new LinkedHashSet<>();
  private final List<Effect> pending = new ArrayList<>();
  private final List<Alteration> alterations = new ArrayList<>();
  private TablePage draft;
  private WriterStep step;
  private boolean dropped;

  /** {@code start}: the version it starts from; of a table made here, its first. */
  TableChange(ChangeSet set, TablePage start, boolean created) {
    this.set = set;
    this.name = start.name();
    this.start = start;
    this.created = created;
    this.draft = created ? start : start.draft(set.stamp());
  }

  TablePage start() {
    return start;
  }

  String name() {
    return name;
  }

  /** The table as the transaction sees it now. */
  public TablePage draft() {
    for (Effect effect : pending) {
      draft = after(draft, effect);
    }
    pending.clear();
    return draft;
  }

  public ReadContext context() {
    return set.context();
  }

  Workers workers() {
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
  boolean isOwn(FileEntry file) {
    return isOwn(file.numbers().number());
  }

  boolean isOwn(long number) {
    return number >= start.nextFileNumber();
  }

  /**
   * The serial that a row keeps when it is written again; null for a row of this transaction, whose
   * serial is not given before the commit.
   */
  Long lasting(long serial) {
    return serial < start.nextSerial() ? (Long) serial : null;
  }

  /** A writer of new rows. */
  public TableWriter writer() {
    return set.register(new TableWriter(set.core(), draft(), set.startEntry()));
  }

  /** A writer of rows that have serials already, or among which are such. */
  TableWriter movingWriter() {
    return set.register(TableWriter.moving(set.core(), draft(), set.startEntry()));
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

  /** The table as it will be after a statement that is not taken yet. */
  TablePage after(Effect effect) {
    return after(draft(), effect);
  }

  private TablePage after(TablePage page, Effect effect) {
    return effect.appliedTo(page, set.context().pages(), set.batch());
  }

  /** Takes a statement's effect; the table as the transaction sees it has it from now on. */
  void take(Effect effect, TablePage after) {
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

  /** Takes a statement's effect that was checked. */
  void take(NewKeys.Checked checked) {
    take(checked.effect(), checked.after());
  }

  /** Remembers what a statement read that changed nothing. */
  void readOnly(Read read) {
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
  void grow(List<Alteration> changes) {
    alter(changes, "grow");
  }

  private void alter(List<Alteration> changes, String operation) {
    if (changes.isEmpty()) {
      return;
    }
    TablePage before = draft();
    FormEditor editor = new FormEditor(before.form());
    TableProperties properties = before.properties();
    for (Alteration change : changes) {
      if (change instanceof Alteration.SetProperty set) {
        properties = properties.with(set.name(), set.value());
      } else {
        editor.apply(change);
      }
    }
    TablePage after =
        before
            .withForm(editor.form(), set.context().pages(), set.batch())
            .withProperties(properties);
    if (!editor.proofs().isEmpty()) {
      awaitFiles();
      Proofs proofs = new Proofs(set.context(), after);
      for (Proof proof : editor.proofs()) {
        proofs
            .against(proof)
            .ifPresent(
                what -> {
                  throw new InvalidInputException(
                      "Table %s cannot be altered so. %s Nothing was changed."
                          .formatted(name, what));
                });
      }
    }
    draft = after;
    alterations.addAll(changes);
    operations.add(operation);
  }

  boolean isAltered() {
    return !alterations.isEmpty();
  }

  /** The settings as they are to be, from those of now. */
  TableProperties properties(TableProperties now) {
    TableProperties changed = now;
    for (Alteration alteration : alterations) {
      if (alteration instanceof Alteration.SetProperty set) {
        if (start.properties().get(set.name()) != now.get(set.name())) {
          throw new Replay.Collision("changed the setting " + set.name(), null);
        }
        changed = changed.with(set.name(), set.value());
      }
    }
    return changed;
  }

  /** The alterations of the form. */
  List<Alteration> formAlterations() {
    return alterations.stream().filter(a -> !(a instanceof Alteration.SetProperty)).toList();
  }

  /** What a named writer does with this commit. */
  public void step(WriterStep writerStep) {
    step = writerStep;
  }

  Optional<WriterRecord> step(Optional<WriterRecord> before) {
    return Optional.of(step.after(before, name));
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
        byte[] key = files.get(i).key(start.nextFileNumber() + i);
        draft().fileTree(set.context().pages()).get(key).ifPresent(successors::add);
      }
    }
    return successors;
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
