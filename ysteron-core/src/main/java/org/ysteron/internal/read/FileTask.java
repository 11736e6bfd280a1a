package org.ysteron.internal.read;

import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.RowSpan;
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
    RowSpan span) {

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
        task.entry().maskedPositions(pages),
        task.filtered(),
        new RowSpan(0, file.rows()));
  }

  /** The same, of some of its rows only. */
  public FileTask among(RowSpan some) {
    return new FileTask(table, name, version, schema, number, file, masked, filtered, some);
  }
}
