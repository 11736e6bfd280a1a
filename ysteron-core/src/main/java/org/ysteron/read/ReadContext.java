package org.ysteron.read;

import org.ysteron.commit.LakeCore;
import org.ysteron.file.FooterCache;
import org.ysteron.file.Workers;
import org.ysteron.store.ObjectStore;
import org.ysteron.tree.PageStore;

/** What reading needs of a lake. */
public record ReadContext(
    ObjectStore store, PageStore pages, FooterCache footers, Workers workers) {

  /** What reading needs of an open lake. */
  public static ReadContext of(LakeCore core) {
    return new ReadContext(core.store(), core.pages(), core.footers(), core.workers());
  }
}
