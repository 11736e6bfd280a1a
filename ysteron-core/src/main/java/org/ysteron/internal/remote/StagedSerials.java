package org.ysteron.internal.remote;

import java.util.ArrayList;
import java.util.List;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.LongIterator;
import org.roaringbitmap.longlong.Roaring64Bitmap;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.changes.SerialFinder;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.Effect;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.tree.PageTree;

/**
 * The serials that staged rows bring: each is that of a row which the same change removes, so that
 * no two rows of a table have one serial. For one thread.
 */
final class StagedSerials {
  private final TableChange change;
  private final List<StagedFile> staged;
  private final List<Touch> touches;

  StagedSerials(TableChange change, List<StagedFile> staged, List<Touch> touches) {
    this.change = change;
    this.staged = staged;
    this.touches = touches;
  }

  /**
   * How many rows are new forms of removed ones.
   *
   * @param effect what brings the rows and removes others
   * @throws InvalidInputException when a serial is not that of a removed row, or comes twice
   */
  long changed(Effect effect) {
    if (staged.stream().noneMatch(StagedSerials::tells)) {
      return 0;
    }
    VersionPage after = change.after(effect).page();
    SerialFinder there = new SerialFinder(change.context(), after);
    Roaring64Bitmap brought = new Roaring64Bitmap();
    for (FileEntry file : telling(after)) {
      Roaring64Bitmap serials = there.serials(file, null);
      boolean twice = serials.getLongCardinality() < file.rows();
      for (LongIterator each = serials.getLongIterator(); each.hasNext(); ) {
        long serial = each.next();
        if (change.isLasting(serial)) {
          twice |= brought.contains(serial);
          brought.addLong(serial);
        }
      }
      if (twice) {
        throw refused("has one serial in two staged rows");
      }
    }
    SerialFinder before = new SerialFinder(change.context(), change.draft());
    long found = 0;
    for (Touch touch : touches) {
      found += RoaringBitmap.andCardinality(before.positions(touch.entry(), brought), touch.rows());
    }
    if (found < brought.getLongCardinality()) {
      throw refused(
          "brings new forms of %d rows, of which it removes %d"
              .formatted(brought.getLongCardinality(), found));
    }
    return found;
  }

  private InvalidInputException refused(String what) {
    return new InvalidInputException(
        "The staged change of table %s %s. Nothing was changed; remove each row of which it brings a new form, and stage one new form of it."
            .formatted(change.name(), what));
  }

  private static boolean tells(StagedFile file) {
    ColumnRange told = file.ranges().get(HiddenColumns.SERIAL_ID);
    return told != null && told.state() != ColumnRange.State.ALL_NULL;
  }

  /** The files whose rows tell serials, as a draft has them. */
  private List<FileEntry> telling(VersionPage draft) {
    List<FileEntry> files = new ArrayList<>();
    PageTree<FileEntry, FileSummary> tree = draft.fileTree(change.context().pages());
    long number = change.numbers().file() + change.files().size();
    for (StagedFile file : staged) {
      if (tells(file)) {
        ColumnRange told = file.ranges().get(HiddenColumns.SERIAL_ID);
        if (told.state() != ColumnRange.State.BOUNDED || !change.isLasting(told.max())) {
          throw refused("has serials that no row of the table has");
        }
        files.add(tree.get(file.key(number)).orElseThrow());
      }
      number++;
    }
    return files;
  }
}
