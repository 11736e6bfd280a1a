package org.ysteron.internal.read;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeDiff;

/**
 * The rows that a version has and the one before had not: those that were born with it under
 * serials that the one before had not given out. Files that both have are not looked at, and of
 * files that came by moving rows only what was born with the version counts. For one thread.
 */
public final class AppendedRows implements BatchSource {
  private final ReadContext context;
  private final VersionPage table;
  private final long firstSerial;
  private final Deque<FileEntry> files = new ArrayDeque<>();
  private FileEntry file;
  private FileScan scan;

  /** {@code before} is null for the first version. */
  public AppendedRows(ReadContext context, VersionPage before, VersionPage table) {
    this.context = context;
    this.table = table;
    this.firstSerial = before == null ? 0 : before.record().nextSerial();
    PageStore pages = context.pages();
    try {
      compare(Optional.ofNullable(before), table, pages);
    } catch (ExpiredException e) {
      // The pages of both may have been copied since.
      files.clear();
      compare(
          Optional.ofNullable(before).map(page -> page.now(pages).orElseThrow(() -> e)),
          table.now(pages).orElseThrow(() -> e),
          pages);
    }
  }

  private void compare(Optional<VersionPage> before, VersionPage table, PageStore pages) {
    PageTree<FileEntry, FileSummary> tree = table.fileTree(pages);
    PageTree<FileEntry, FileSummary> old =
        before
            .map(page -> page.fileTree(pages))
            .orElseGet(() -> new PageTree<>(pages, FileFormat.INSTANCE, PageTree.Root.EMPTY));
    TreeDiff<FileEntry, FileSummary> diff = old.diff(tree);
    Optional<TreeDiff.Change<FileEntry>> change = diff.next();
    while (change.isPresent()) {
      if (change.get().before().isEmpty()) {
        FileEntry added = change.get().after().orElseThrow();
        if (added.hasBornSince(table.ordinal() - 1)) {
          files.add(added);
        }
      }
      change = diff.next();
    }
  }

  @Override
  public Optional<Batch> next() {
    while (true) {
      if (scan == null) {
        if (files.isEmpty()) {
          return Optional.empty();
        }
        open(files.remove());
      }
      Optional<Batch> batch = scan.next();
      if (batch.isEmpty()) {
        close();
        continue;
      }
      Batch fresh = file.tellsSerials() ? fresh(batch.get()) : batch.get();
      if (fresh.size() > 0) {
        return Optional.of(fresh);
      }
    }
  }

  private void open(FileEntry next) {
    file = next;
    Schema wanted = next.tellsSerials() ? HiddenColumns.with(table.schema()) : table.schema();
    scan = FileScan.all(context, table, next, wanted);
  }

  private Batch fresh(Batch batch) {
    int columns = table.schema().columns().size();
    Vector serials = batch.vectors().get(columns);
    Vector births = batch.vectors().get(columns + 1);
    List<Vector> plain = new ArrayList<>(batch.vectors().subList(0, columns));
    Batch rows = new Batch(table.schema().struct(), batch.size(), plain);
    long[] fresh = new long[(batch.size() + 63) >> 6];
    for (int i = 0; i < batch.size(); i++) {
      if (file.birth(births, i) == table.ordinal()
          && file.serial(serials, i, scan.position(i)) >= firstSerial) {
        fresh[i >> 6] |= 1L << i;
      }
    }
    return Gather.select(rows, fresh);
  }

  @Override
  public void close() {
    if (scan != null) {
      scan.close();
      scan = null;
    }
  }
}
