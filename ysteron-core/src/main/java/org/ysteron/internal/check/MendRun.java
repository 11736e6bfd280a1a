package org.ysteron.internal.check;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Isolation;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.Finding;
import org.ysteron.proof.LakeMend;
import org.ysteron.proof.MendReport;
import org.ysteron.report.Committed;

/**
 * Builds heads and newest versions anew that have lost pages, and takes data files out of the
 * newest versions of tables that a check has found to be lost or damaged. Immutable; a run is for
 * one thread.
 */
public final class MendRun implements LakeMend {
  private static final String OPERATION = "mend";

  private final LakeCore core;
  private final CommitNote note;
  private final CheckDepth depth;

  /** Has looked at nothing yet. */
  public MendRun(LakeCore core, CommitNote note) {
    this(core, note, CheckDepth.BYTES);
  }

  private MendRun(LakeCore core, CommitNote note, CheckDepth depth) {
    this.core = core;
    this.note = note;
    this.depth = depth;
  }

  @Override
  public LakeMend to(CheckDepth other) {
    return new MendRun(core, note, other);
  }

  @Override
  public MendReport dryRun() {
    return mend(true);
  }

  @Override
  public MendReport run() {
    return mend(false);
  }

  private MendReport mend(boolean isDryRun) {
    CheckRun.Looked looked = new CheckRun(core).looked(depth);
    Map<UUID, List<Findings.Found>> broken = new LinkedHashMap<>();
    for (Findings.Found found : looked.found()) {
      if (found.kind() == Finding.Kind.FILE && found.subject() instanceof Findings.OfFile of) {
        broken.computeIfAbsent(of.table(), id -> new ArrayList<>()).add(found);
      }
    }
    List<MendReport.Lost> lost = new ArrayList<>();
    List<Committed> commits = new ArrayList<>();
    boolean hasLostPages =
        looked.found().stream()
            .anyMatch(
                found -> found.kind() == Finding.Kind.PAGE || found.kind() == Finding.Kind.ENTRY);
    List<String> forgotten = new ArrayList<>();
    List<MendReport.LostVersions> versions =
        hasLostPages ? pages(isDryRun, commits, forgotten) : List.of();
    LakeState state = core.refresh();
    for (TableListing table : state.page().tables(false, core.pages())) {
      List<Findings.Found> files = broken.getOrDefault(table.id(), List.of());
      if (hasLostPages || !files.isEmpty()) {
        mend(table, files, isDryRun, lost).ifPresent(commits::add);
      }
    }
    Set<String> mended =
        lost.stream().map(MendReport.Lost::object).collect(Collectors.toUnmodifiableSet());
    List<Finding> found =
        commits.isEmpty() || isDryRun
            ? looked.report().findings()
            : new CheckRun(core).looked(depth).report().findings();
    Set<String> tables =
        versions.stream().map(MendReport.LostVersions::table).collect(Collectors.toSet());
    List<Finding> left =
        found.stream()
            .filter(
                finding ->
                    finding.kind() != Finding.Kind.FILE || !mended.contains(finding.object()))
            .filter(finding -> !isDryRun || !isMended(finding, tables))
            .toList();
    return new MendReport(lost, versions, forgotten, commits, left);
  }

  /** Whether a page matters to tables only that are mended. */
  private static boolean isMended(Finding finding, Set<String> tables) {
    return finding.kind() == Finding.Kind.PAGE
        && !finding.affected().isEmpty()
        && finding.affected().stream().allMatch(affected -> tables.contains(affected.table()));
  }

  /** Builds anew what tables have lost pages of. */
  private List<MendReport.LostVersions> pages(
      boolean isDryRun, List<Committed> commits, List<String> forgotten) {
    List<MendReport.LostVersions> lost = new ArrayList<>();
    for (TableListing table : core.refresh().page().allByName(core.pages())) {
      TableMend change = new TableMend(core, table.id());
      if (isDone(change, isDryRun, commits)) {
        lost.addAll(change.lost());
        forgotten.addAll(change.forgotten());
      }
    }
    return lost;
  }

  /** Whether there was something to do, and it could be done. */
  private boolean isDone(TableMend change, boolean isDryRun, List<Committed> commits) {
    try {
      if (isDryRun) {
        core.dryRun(change, note);
      } else {
        commits.add(Retries.untilKnown(() -> core.commit(change, note)));
      }
      return true;
    } catch (NothingToDo e) {
      return false;
    }
  }

  private static RoaringBitmap all(FileEntry file) {
    return RoaringBitmap.bitmapOfRange(0, file.rows());
  }

  /** The rows of a file that count; empty when that cannot be read. */
  private Optional<RoaringBitmap> live(FileEntry file) {
    try {
      RoaringBitmap live = all(file);
      live.andNot(file.maskedPositions(new PageStore(core.store(), core.pages().past())));
      return Optional.of(live);
    } catch (DamagedException | ExpiredException e) {
      return Optional.empty();
    }
  }

  /** The other files of which it is not known any more which rows count, and why. */
  private Map<FileEntry, String> withoutMask(VersionPage page, List<Touch> touched) {
    Map<FileEntry, String> lost = new LinkedHashMap<>();
    try {
      var files = page.fileTree(core.pages()).cursor();
      while (files.next()) {
        FileEntry file = files.value();
        boolean isTouched =
            touched.stream().anyMatch(touch -> touch.entry().id().equals(file.id()));
        if (!isTouched && file.numbers().maskedRows() > 0 && live(file).isEmpty()) {
          lost.put(
              file,
              "The page with its row mask is lost, so it is unknown which of its rows were deleted.");
        }
      }
    } catch (DamagedException | ExpiredException e) {
      return Map.of(); // what is wrong with that is told
    }
    return lost;
  }

  private Optional<Committed> mend(
      TableListing table,
      List<Findings.Found> broken,
      boolean isDryRun,
      List<MendReport.Lost> lost) {
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
    TableChange change;
    try {
      change = set.table(table.id(), table.name());
    } catch (DamagedException | ExpiredException e) {
      if (broken.isEmpty()) {
        return Optional.empty(); // what is wrong with its newest version is told
      }
      throw e;
    }
    VersionPage page = change.draft();
    List<Touch> touches = new ArrayList<>();
    for (Findings.Found found : broken) {
      FileEntry file = ((Findings.OfFile) found.subject()).file();
      page.fileTree(core.pages())
          .get(file.key())
          .filter(there -> there.id().equals(file.id()))
          .ifPresent(
              there -> {
                touches.add(new Touch(there, live(there).orElse(all(there)), true));
                lost.add(
                    new MendReport.Lost(
                        table.name(), found.object(), there.liveRows(), found.problem()));
              });
    }
    withoutMask(page, touches)
        .forEach(
            (file, problem) -> {
              touches.add(new Touch(file, all(file), true));
              lost.add(
                  new MendReport.Lost(
                      table.name(), file.objectName(table.id()), file.liveRows(), problem));
            });
    if (touches.isEmpty() || isDryRun) {
      return Optional.empty();
    }
    Effect effect = new Effect(OPERATION, List.of(), touches, List.of());
    change.take(effect, change.after(effect));
    try {
      return set.commit(note);
    } catch (DamagedException e) {
      throw new DamagedException(
          "Table %s was not mended: %s".formatted(table.name(), e.getMessage()), e);
    }
  }
}
