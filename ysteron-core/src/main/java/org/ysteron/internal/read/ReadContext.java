package org.ysteron.internal.read;

import org.ysteron.internal.file.FooterCache;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.ObjectStore;

/** What reading needs of a lake. */
public record ReadContext(
    ObjectStore store, PageStore pages, FooterCache footers, Workers workers, Watch watch) {}
