package org.ysteron.read;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Gather;
import org.ysteron.data.Schema;
import org.ysteron.data.Serials;
import org.ysteron.data.Vector;
import org.ysteron.table.FileEntry;
import org.ysteron.table.FileSummary;
import org.ysteron.table.TablePage;
import org.ysteron.tree.PageTree;
import org.ysteron.tree.TreeDiff;

/**
 * The rows that a version has and the one before had not: those in files born with it that have no
 * serial from before. What both versions share is not looked at. For one thread.
 */
public final class AppendedRows implements BatchSource {
  private final ReadContext context;
  private final TablePage table;
  private final Deque<FileEntry> files = new ArrayDeque<>();
  private FileScan scan;
  private boolean hasSerials;

  /** {@code before} is null for the first version. */
  public AppendedRows(ReadContext context, TablePage before, TablePage table) {
    this.context = context;
    this.table = table;
    PageTree<FileEntry, FileSummary> tree = table.fileTree(context.pages());
    PageTree<FileEntry, FileSummary> old =
        before == null
            ? new PageTree<>(
                context.pages(), org.ysteron.table.FileFormat.INSTANCE, PageTree.Root.EMPTY)
            : before.fileTree(context.pages());
    TreeDiff<FileEntry, FileSummary> diff = old.diff(tree);
    Optional<TreeDiff.Change<FileEntry>> change = diff.next();
    while (change.isPresent()) {
      if (change.get().before().isEmpty()) {
        FileEntry added = change.get().after().orElseThrow();
        if (added.numbers().birth() == table.version()) {
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
      Batch fresh = hasSerials ? withoutSerials(batch.get()) : batch.get();
      if (fresh.size() > 0) {
        return Optional.of(fresh);
      }
    }
  }

  private void open(FileEntry file) {
    hasSerials = file.tellsSerials();
    Schema wanted = hasSerials ? Serials.with(table.schema()) : table.schema();
    scan = FileScan.all(context, table, file, wanted);
  }

  private Batch withoutSerials(Batch batch) {
    int last = batch.vectors().size() - 1;
    Vector serials = batch.vectors().get(last);
    List<Vector> plain = new ArrayList<>(batch.vectors().subList(0, last));
    Batch rows = new Batch(table.schema().struct(), batch.size(), plain);
    long[] fresh = new long[(batch.size() + 63) >> 6];
    for (int i = 0; i < batch.size(); i++) {
      if (serials.isNull(i)) {
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
