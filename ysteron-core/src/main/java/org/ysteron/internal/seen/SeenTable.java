package org.ysteron.internal.seen;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.changes.RowEdits;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.NextVersion;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.work.Workers;

/**
 * A table as a transaction sees it: the version that it started from, what it did to rows, and the
 * draft with both. For one thread.
 */
public abstract class SeenTable {
  private final Scope scope;
  private final String name;
  private final boolean created;
  private final TableNumbers first;
  private final List<RowEdits> pending = new ArrayList<>();
  private VersionPage start;
  private Draft draft;
  private RowEdits edits = RowEdits.NONE;

  /**
   * A table.
   *
   * @param first what it gives out next at the start
   * @param created whether it is made in this transaction
   */
  public SeenTable(Scope scope, VersionPage start, TableNumbers first, boolean created) {
    this.scope = scope;
    this.start = start;
    this.name = start.name();
    this.first = first;
    this.created = created;
    this.draft = new Draft(created ? start : start.draft(scope.stamp()), first);
  }

  public final Scope scope() {
    return scope;
  }

  public final VersionPage start() {
    return start;
  }

  /** Starts from what an earlier version had. */
  public final void startFrom(VersionPage rewound) {
    start = rewound;
    draft = new Draft(rewound.draft(scope.stamp()), first.with(rewound.form()));
  }

  /** What the table gave out next at the start. */
  public final TableNumbers numbers() {
    return first;
  }

  /** What the table gives out next after what was done here. */
  public final TableNumbers numbersNow() {
    return current().numbers();
  }

  /** The ordinal of the last commit that the transaction has seen. */
  public final long seen() {
    return scope.stamp().ordinal();
  }

  /** The version of the layout as of now; no other that was set here is in the table later. */
  public final long layoutVersion() {
    return draft.page().layoutVersion();
  }

  public final String name() {
    return name;
  }

  public final boolean isCreated() {
    return created;
  }

  /** The table as the transaction sees it now. */
  public final VersionPage draft() {
    return current().page();
  }

  public final Draft current() {
    for (RowEdits each : pending) {
      draft = after(draft, each);
    }
    pending.clear();
    return draft;
  }

  public final ReadContext context() {
    return scope.context();
  }

  public final Workers workers() {
    return scope.core().workers();
  }

  /** Waits until what this transaction wrote can be read. */
  public final void awaitFiles() {
    scope.awaitDurable();
  }

  /** Whether a file was written by this transaction. */
  public final boolean isOwn(FileEntry file) {
    return isOwn(file.numbers().number());
  }

  public final boolean isOwn(long number) {
    return number >= first.file();
  }

  /** A serial that {@link #isLasting}, else null. */
  public final Long lasting(long serial) {
    return isLasting(serial) ? (Long) serial : null;
  }

  /**
   * Whether a serial stays a row's when it is written again; those of rows of this transaction are
   * not given before the commit.
   */
  public final boolean isLasting(long serial) {
    return serial < first.serial();
  }

  /** What was done to rows. */
  public final RowEdits edits() {
    return edits;
  }

  public final List<StagedFile> files() {
    return edits.files();
  }

  /** By file number; of files written here, too. */
  public final Map<Long, Touch> touched() {
    return edits.touched();
  }

  /** The table as it will be after edits that are not taken yet. */
  public final Draft after(RowEdits more) {
    return after(current(), more);
  }

  private Draft after(Draft before, RowEdits more) {
    NextVersion next =
        new NextVersion(before.page(), before.numbers(), context().pages(), scope.batch());
    more.applyTo(next);
    return new Draft(next.build(true), next.numbers());
  }

  /** Takes what a statement does to rows, and the draft that follows. */
  public final void take(RowEdits more, Draft after) {
    draft = after;
    edits = edits.and(more);
  }

  /** Takes what a statement does to rows; the draft follows when somebody looks at it. */
  public final void takeLater(RowEdits more) {
    pending.add(more);
    edits = edits.and(more);
  }

  /** Takes a draft in which rows are as they were. */
  public final void take(Draft altered) {
    draft = altered;
  }

  /** What brings back what is now. */
  public Runnable mark() {
    Draft drafted = current();
    VersionPage startThen = start;
    RowEdits editsThen = edits;
    return () -> {
      draft = drafted;
      start = startThen;
      edits = editsThen;
      pending.clear();
    };
  }

  /** The transaction's own files, as its draft has them, to which a file's rows were moved. */
  public final List<FileEntry> successors(long number) {
    List<FileEntry> successors = new ArrayList<>();
    for (int i = 0; i < files().size(); i++) {
      if (files().get(i).holdsRowsOf(number)) {
        byte[] key = files().get(i).key(first.file() + i);
        draft().fileTree(context().pages()).get(key).ifPresent(successors::add);
      }
    }
    return successors;
  }

  /** The number of a file, and of those from which rows were moved to it in this transaction. */
  public final Set<Long> origins(long number) {
    Set<Long> numbers = new TreeSet<>(Set.of(number));
    if (isOwn(number)) {
      files()
          .get((int) (number - first.file()))
          .origin()
          .ifPresent(origin -> numbers.addAll(origin.files()));
    }
    return numbers;
  }

  /** The rows of a file that count. */
  public final RoaringBitmap live(FileEntry file) {
    RoaringBitmap all = new RoaringBitmap();
    all.add(0L, file.rows());
    all.andNot(file.maskedPositions(context().pages()));
    return all;
  }
}
