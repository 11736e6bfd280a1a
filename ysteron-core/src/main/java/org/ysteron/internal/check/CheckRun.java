package org.ysteron.internal.check;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Budget;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.CheckReport;
import org.ysteron.proof.Finding;
import org.ysteron.proof.LakeCheck;

/**
 * Looks at everything that the newest state of a lake needs: entries and pages first, each page
 * once, then data files in the order of their names, then rows. What others let go meanwhile is not
 * missing: of what is not there it is asked whether the newest state of then still needs it.
 * Immutable; a run is for one thread.
 */
public final class CheckRun implements LakeCheck {
  private final LakeCore core;
  private final CheckDepth depth;
  private final String position;
  private final Budget budget;

  /** Has looked at nothing yet. */
  public CheckRun(LakeCore core) {
    this(core, CheckDepth.FILES, "", Budget.ALL);
  }

  private CheckRun(LakeCore core, CheckDepth depth, String position, Budget budget) {
    this.core = core;
    this.depth = depth;
    this.position = position;
    this.budget = budget;
  }

  @Override
  public LakeCheck depth(CheckDepth other) {
    return new CheckRun(core, other, position, budget);
  }

  @Override
  public LakeCheck after(String other) {
    return new CheckRun(core, depth, other, budget);
  }

  @Override
  public LakeCheck within(Budget other) {
    return new CheckRun(core, depth, position, other);
  }

  private boolean goesTo(CheckDepth other) {
    return depth.compareTo(other) >= 0;
  }

  /** What a check has found, as it is told and as it was found. */
  record Looked(CheckReport report, List<Findings.Found> found) {}

  @Override
  public CheckReport run() {
    return look().report;
  }

  /** Looks at all to another depth. */
  Looked looked(CheckDepth other) {
    return new CheckRun(core, other, "", Budget.ALL).look();
  }

  private Looked look() {
    LakeState state = core.refreshHere();
    Findings findings = new Findings();
    PageStore pages = new PageStore(core.store(), core.pages().past());
    boolean everyByte = goesTo(CheckDepth.BYTES);
    FileCheck files = new FileCheck(core, pages, findings, everyByte);
    MetadataCheck metadata =
        new MetadataCheck(
            core,
            state,
            pages,
            findings,
            everyByte,
            goesTo(CheckDepth.FILES) ? files::add : (table, file) -> {});
    metadata.run();
    Optional<String> next =
        goesTo(CheckDepth.FILES) ? files.run(position, budget) : Optional.empty();
    long rows = 0;
    if (goesTo(CheckDepth.ROWS) && next.isEmpty()) {
      for (TableListing table : metadata.tables()) {
        rows += rows(table, pages, findings);
      }
    }
    List<Findings.Found> found = findings.all();
    List<Finding> judged = judged(found, findings, pages);
    CheckReport report =
        new CheckReport(
            state.lakeId(),
            state.number(),
            state.hash(),
            state.entry().time(),
            depth,
            new CheckReport.Counts(
                metadata.tables().size(),
                metadata.versions(),
                metadata.entries(),
                metadata.pagesRead(),
                files.looked(),
                metadata.bytes() + files.bytes(),
                rows,
                findings.gone()),
            judged,
            findings.unlisted(),
            metadata.erasures(),
            next);
    return new Looked(report, found);
  }

  private long rows(TableListing table, PageStore pages, Findings findings) {
    try {
      RowCheck check = new RowCheck(core, findings, VersionPage.read(table.page(), pages));
      check.run();
      return check.rows();
    } catch (DamagedException | ExpiredException e) {
      return 0; // told where that page is
    }
  }

  /** What was found, without what was let go meanwhile, and with what it concerns. */
  private List<Finding> judged(List<Findings.Found> all, Findings findings, PageStore pages) {
    if (all.isEmpty()) {
      return List.of();
    }
    Set<PageRef> damaged = new HashSet<>();
    for (Findings.Found one : all) {
      if (one.subject() instanceof Findings.OfPage page) {
        damaged.add(page.page());
      }
    }
    Consequences consequences = new Consequences(core.refresh(), pages, damaged);
    List<Finding> judged = new ArrayList<>();
    for (Findings.Found one : all) {
      List<Finding.Affected> affected = consequences.of(one.subject());
      if (one.subject() instanceof Findings.OfFile && affected.isEmpty()) {
        findings.gone(1);
      } else {
        judged.add(
            new Finding(one.kind(), one.object(), one.problem(), affected, remedy(one.kind())));
      }
    }
    return judged;
  }

  private static String remedy(Finding.Kind kind) {
    return switch (kind) {
      case ENTRY, PAGE ->
          "Restore the object from any copy of the lake that has it; objects never change.";
      case FILE ->
          "Restore the file from any copy of the lake that has it (data files never change), or run a mend, which removes it from the newest version.";
      case CONTRADICTION ->
          "A damaged disk does not cause this. Keep a copy of the lake for analysis, restore a version or a copy without findings, and report it.";
      case ROWS -> "Inspect the rows. Correct or delete them, or rewind to an earlier version.";
    };
  }
}
