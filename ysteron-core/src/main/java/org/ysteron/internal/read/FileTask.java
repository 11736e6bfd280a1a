package org.ysteron.internal.read;

import java.util.Optional;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.RowSpan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;

/**
 * A data file to read, and all that reading it takes beside its store. Immutable.
 *
 * @param table the table's id
 * @param name the table's name
 * @param version the version that is read
 * @param schema the columns of that version
 * @param number the file's number in the table
 * @param file how to open it
 * @param masked the rows that do not count
 * @param filtered whether rows of it may not pass, so that each is to be tested
 * @param span the positions that are meant
 * @param missing what it means when the file is not there
 */
public record FileTask(
    UUID table,
    String name,
    long version,
    Schema schema,
    long number,
    DataFile file,
    RoaringBitmap masked,
    boolean filtered,
    RowSpan span,
    UnaryOperator<RuntimeException> missing) {

  /** A planned file of a version. */
  public static FileTask of(ScanPlan.Task task, PageStore pages) {
    VersionPage table = task.table();
    DataFile file = task.file();
    return new FileTask(
        table.id(),
        table.name(),
        table.version(),
        table.schema(),
        task.entry().numbers().number(),
        file,
        masked(task, pages),
        task.filtered(),
        new RowSpan(0, file.rows()),
        damage -> missing(task, pages, damage));
  }

  /** The mask, wherever its page is by now. */
  private static RoaringBitmap masked(ScanPlan.Task task, PageStore pages) {
    try {
      return task.entry().maskedPositions(pages);
    } catch (ExpiredException e) {
      return now(task, pages).orElseThrow(() -> e).maskedPositions(pages);
    }
  }

  /** What the newest state says of the file in the version that is read. */
  private static Optional<FileEntry> now(ScanPlan.Task task, PageStore pages) {
    return task.table().now(pages).flatMap(page -> page.fileTree(pages).get(task.entry().key()));
  }

  /** That the version has expired, or damage. */
  private static RuntimeException missing(
      ScanPlan.Task task, PageStore pages, RuntimeException damage) {
    try {
      Optional<FileEntry> now = now(task, pages);
      UUID table = task.table().id();
      String name = task.entry().objectName(table);
      boolean isStillMeant = now.map(entry -> entry.objectName(table).equals(name)).orElse(false);
      return isStillMeant || !pages.past().mayForget()
          ? damage
          : ExpiredException.ofVersion(
              task.table().name(),
              task.table().version(),
              "Version %d of table %s has expired while it was read: %s Start again from a kept version."
                  .formatted(task.table().version(), task.table().name(), damage.getMessage()),
              damage);
    } catch (ExpiredException e) {
      return e;
    }
  }

  /** The same, of some of its rows only. */
  public FileTask among(RowSpan some) {
    return new FileTask(
        table, name, version, schema, number, file, masked, filtered, some, missing);
  }
}
