package org.ysteron.internal.check;

import java.util.Optional;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.lake.LakeWalk;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeWalk;
import org.ysteron.internal.work.Workers;
import org.ysteron.proof.Finding;

/** A walk through pages that goes on where one cannot be read, and tells of it. */
abstract class PageInspection implements LakeWalk.Visitor, TableWalk.Visitor, TreeWalk.Inspection {
  private final PageStore pages;
  private final Workers workers;
  private final Findings findings;

  PageInspection(PageStore pages, Workers workers, Findings findings) {
    this.pages = pages;
    this.workers = workers;
    this.findings = findings;
  }

  @Override
  public void plain(PageRef ref) {
    try {
      pages.read(ref);
    } catch (DamagedException | ExpiredException e) {
      unreadable(ref, e);
    }
  }

  @Override
  public void unreadable(PageRef page, RuntimeException why) {
    findings.unreadable(
        Finding.Kind.PAGE, page.home().objectName(), why, new Findings.OfPage(page));
  }

  @Override
  public Workers workers() {
    return workers;
  }

  @Override
  public Optional<TreeWalk.Inspection> inspection() {
    return Optional.of(this);
  }
}
