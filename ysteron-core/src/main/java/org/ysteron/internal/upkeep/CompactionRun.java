package org.ysteron.internal.upkeep;

import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicReference;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.statement.RowMoves;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileTexts;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.maintenance.CompactionPlan;
import org.ysteron.maintenance.CompactionReport;
import org.ysteron.option.Isolation;
import org.ysteron.option.TableSettings;
import org.ysteron.progress.Progress;
import org.ysteron.report.Committed;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.StoreException;

/**
 * Packs files of a table, some groups in each commit, so that what was committed stands whatever
 * comes then. A commit starts from the newest state: files that others have taken away meanwhile
 * are not packed, and of those that they change while rows are moved the changes follow by serial.
 * More groups go into a commit after each success, fewer after losses; a group that is lost again
 * and again alone, and a file that cannot be read, are left out and told. For one thread.
 */
public final class CompactionRun {
  private static final int MOST_AT_ONCE = 16;
  private static final int FEWER_AFTER = 3;
  private static final int LOST_ALONE = 10;
  private static final int MOST_PASSES = 5;

  /** No more is read for one commit, so that little is lost when it is. */
  private static final long MOST_BYTES_AT_ONCE = 1L << 30;

  private final LakeCore core;
  private final CommitNote note;
  private final UUID id;
  private final String name;
  private final PackChoice choice;
  private final long began = System.nanoTime();
  private final Set<Long> without = new HashSet<>();
  private CompactionReport report = CompactionReport.NOTHING;
  private int atOnce = 1;
  private Watch.Step step;
  private int lost;
  private int missed;

  /** Packs nothing yet. */
  public CompactionRun(LakeCore core, CommitNote note, UUID id, String name, PackChoice choice) {
    this.core = core;
    this.note = note;
    this.id = id;
    this.name = name;
    this.choice = choice;
  }

  /** What would be packed now. */
  public CompactionPlan plan() {
    return core.ofNewest(this::plan);
  }

  private CompactionPlan plan(LakeState state) {
    VersionPage table = new ChangeSet(core, state, Isolation.SNAPSHOT).table(id, name).draft();
    FileTexts texts = new FileTexts(table, core.pages());
    PackPlan plan = new PackPlan(table, choice, without, core.reading());
    List<CompactionPlan.Group> groups = new ArrayList<>();
    for (var group = plan.next(); group.isPresent(); group = plan.next()) {
      List<FileEntry> files = group.get();
      groups.add(
          new CompactionPlan.Group(
              texts.told(files.get(0)).partition(),
              files.size(),
              files.stream().mapToLong(FileEntry::size).sum(),
              files.stream().mapToLong(FileEntry::liveRows).sum(),
              files.stream().mapToLong(file -> file.numbers().maskedRows()).sum()));
    }
    return new CompactionPlan(groups);
  }

  private TableChange open() {
    return new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT).table(id, name);
  }

  /**
   * Packs until nothing is left to do or the budget is spent.
   *
   * @throws ConflictException when the table is dropped; what was committed before stands
   */
  public CompactionReport run() {
    step = step();
    int passes = 0;
    boolean isDone = false;
    while (!isDone) {
      int before = report.commits().size();
      // One that fails leaves something out, or has lost once more.
      boolean passed = passOrMiss();
      boolean packed = report.commits().size() > before;
      // What was packed may take fewer bytes than was thought, and be worth packing once more.
      isDone = passed && (!packed || report.isSpent() || ++passes == MOST_PASSES);
    }
    return report;
  }

  /** How much there is to do costs a plan, which is made for those only who want to know it. */
  private Watch.Step step() {
    if (core.watch().isIdle()) {
      return core.watch().step("compact files", Progress.Unit.FILES);
    }
    long files = plan().files();
    return core.watch().step("compact files", Progress.Unit.FILES, files);
  }

  /** The version that was planned may be superseded and let go while its pages are read. */
  private boolean passOrMiss() {
    try {
      return pass();
    } catch (ExpiredException e) {
      if (++missed == LOST_ALONE) {
        throw e;
      }
      core.pause(missed);
      return false;
    }
  }

  /** Goes through a plan once; false when another one is needed. */
  private boolean pass() {
    PackPlan plan = new PackPlan(open().draft(), choice, without, core.reading());
    List<List<FileEntry>> waiting = new ArrayList<>();
    while (true) {
      while (waiting.size() < atOnce) {
        Optional<List<FileEntry>> next = plan.next();
        if (next.isEmpty()) {
          break;
        }
        waiting.add(next.get());
      }
      if (waiting.isEmpty()) {
        return true;
      }
      if (isSpent(CompactionReport.Amount.NONE)) {
        report = report.spent();
        return true;
      }
      int packed = pack(waiting.subList(0, Math.min(atOnce, waiting.size())));
      if (packed == 0) {
        return false;
      }
      waiting.subList(0, packed).clear();
    }
  }

  /** Whether the budget is, when so much more was read. */
  private boolean isSpent(CompactionReport.Amount more) {
    CompactionReport.Amount all = report.read().and(more);
    Duration since = Duration.ofNanos(System.nanoTime() - began);
    return choice.budget().isSpent(all.bytes(), all.files(), since);
  }

  /** Packs some groups by one commit: how many of them; 0 when that has to be planned anew. */
  private int pack(List<List<FileEntry>> groups) {
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
    AtomicReference<FileEntry> unread = new AtomicReference<>();
    try {
      Packed packed = new Packed(set.table(id, name), unread);
      int added = 0;
      do {
        step.add(groups.get(added).size());
        packed.add(groups.get(added++));
      } while (added < groups.size()
          && !isSpent(packed.read())
          && packed.read().bytes() < MOST_BYTES_AT_ONCE);
      if (packed.touches.isEmpty()) {
        return added;
      }
      packed.take();
      Committed committed = Retries.untilKnown(() -> set.commit(note).orElseThrow());
      report = report.and(packed.read(), packed.written(), packed.masked(), committed);
      atOnce = Math.min(MOST_AT_ONCE, atOnce * 2);
      lost = 0;
      return added;
    } catch (UnknownOutcomeException e) {
      throw e; // what was written may be committed
    } catch (ConflictException e) {
      set.discard();
      meet(e, groups);
      return 0;
    } catch (ExpiredException | StoreException e) {
      set.discard();
      if (core.missed(e, set.start()) instanceof ConflictException tooEarly) {
        meet(tooEarly, groups);
        return 0;
      }
      throw e;
    } catch (DamagedException e) {
      set.discard();
      if (unread.get() == null) {
        throw e;
      }
      skip(unread.get(), e.getMessage());
      return 0;
    } catch (RuntimeException e) {
      set.discard();
      throw e;
    }
  }

  private void meet(ConflictException conflict, List<List<FileEntry>> groups) {
    if (!conflict.isWorthAnotherTry()) {
      throw conflict;
    }
    lost++;
    if (atOnce > 1 && lost % FEWER_AFTER == 0) {
      atOnce /= 2;
    }
    if (atOnce == 1 && lost >= LOST_ALONE) {
      groups.get(0).forEach(file -> skip(file, conflict.getMessage()));
      lost = 0;
    }
    core.pause(Math.min(lost, LOST_ALONE));
  }

  private void skip(FileEntry file, String reason) {
    without.add(file.numbers().number());
    report =
        report.without(
            new CompactionReport.SkippedFile(file.numbers().number(), file.objectName(id), reason));
  }

  /** The groups of one commit, on the newest state. */
  private final class Packed {
    private final TableChange table;
    private final AtomicReference<FileEntry> unread;
    private final PageStore pages = core.pages();
    private final List<StagedFile> files = new ArrayList<>();
    private final List<Touch> touches = new ArrayList<>();

    Packed(TableChange table, AtomicReference<FileEntry> unread) {
      this.table = table;
      this.unread = unread;
    }

    /** Writes what is still there of a group. */
    void add(List<FileEntry> planned) {
      List<FileEntry> group = new ArrayList<>();
      for (FileEntry file : planned) {
        table.draft().fileTree(pages).get(file.key()).ifPresent(group::add);
      }
      if (group.isEmpty() || (group.size() == 1 && planned.size() > 1)) {
        return;
      }
      TableWriter writer = table.movingWriter();
      // A group weighs about the target, as its files tell; it is to become one file all the same,
      // also when a row group that is not compressed yet is more than that.
      long target = table.draft().settings().number(TableSettings.FILE_BYTES);
      long rowGroup = table.draft().settings().number(TableSettings.GROUP_BYTES);
      boolean isRenewed =
          choice.renews()
              && group.stream().anyMatch(file -> PackPlan.isOfOldForm(file, table.draft()));
      writer.filesUpTo(isRenewed ? target : Math.max(2 * target, target + 2 * rowGroup));
      new RowMoves(table, writer).moveAll(group, unread::set);
      files.addAll(RowMoves.moved(table, group, writer));
      group.forEach(file -> touches.add(new Touch(file, new RoaringBitmap(), true)));
    }

    void take() {
      Effect effect = new Effect("compact", files, touches, List.of());
      table.take(effect, table.after(effect));
    }

    CompactionReport.Amount read() {
      return new CompactionReport.Amount(
          touches.size(),
          touches.stream().mapToLong(touch -> touch.entry().size()).sum(),
          touches.stream().mapToLong(touch -> touch.entry().liveRows()).sum());
    }

    CompactionReport.Amount written() {
      return new CompactionReport.Amount(
          files.size(),
          files.stream().mapToLong(StagedFile::size).sum(),
          files.stream().mapToLong(StagedFile::rows).sum());
    }

    long masked() {
      return touches.stream().mapToLong(touch -> touch.entry().numbers().maskedRows()).sum();
    }
  }
}
