package org.ysteron.internal.statement;

import java.util.ArrayList;
import java.util.List;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.TableSettings;
import org.ysteron.report.ChangeReport;

/**
 * Decides file by file how the rows that a statement removes go. A file no row of which is left is
 * dropped. Of the others, a file with few rows gone gets a row mask, and one with many is written
 * anew without them: a mask costs every later read a little, rewriting costs the write once, so the
 * share of the rows decides unless the caller does. A file that the same transaction wrote always
 * gets a mask, for it is not part of any version yet. For one thread.
 */
public final class Touching {
  private final TableChange table;
  private final ChangeStyle style;
  private final long percent;
  private final List<Touch> touches = new ArrayList<>();
  private final List<StagedFile> moved = new ArrayList<>();
  private long rows;
  private long dropped;
  private long masked;
  private long rewritten;

  public Touching(TableChange table, ChangeStyle style) {
    this.table = table;
    this.style = style;
    this.percent = table.draft().settings().number(TableSettings.REWRITE_PERCENT);
  }

  /** The positions of the rows of a file that count. */
  public RoaringBitmap live(FileEntry file) {
    return table.live(file);
  }

  /** Some rows of a file, all of which count, go. */
  public void touch(FileEntry file, RoaringBitmap positions) {
    long count = positions.getLongCardinality();
    if (count == 0) {
      return;
    }
    rows += count;
    if (count == file.liveRows()) {
      dropped++;
      touches.add(new Touch(file, positions, true));
    } else if (table.isOwn(file) || !isRewritten(file, count)) {
      masked++;
      touches.add(new Touch(file, positions, false));
    } else {
      rewritten++;
      moved.addAll(rewrite(file, positions));
      touches.add(new Touch(file, positions, true));
    }
  }

  private boolean isRewritten(FileEntry file, long count) {
    return switch (style) {
      case MASK -> false;
      case REWRITE -> true;
      case BY_SHARE -> (file.numbers().maskedRows() + count) * 100 > percent * file.rows();
    };
  }

  private List<StagedFile> rewrite(FileEntry file, RoaringBitmap positions) {
    RoaringBitmap kept = live(file);
    kept.andNot(positions);
    TableWriter writer = table.movingWriter();
    new RowMoves(table, writer).move(file, kept);
    return RowMoves.moved(table, List.of(file), writer);
  }

  public List<Touch> touches() {
    return touches;
  }

  /** The successors of files that were written anew. */
  public List<StagedFile> moved() {
    return moved;
  }

  /** Rows that went so far. */
  public long rows() {
    return rows;
  }

  /** What was done, with the new data files of changed and inserted rows. */
  public ChangeReport report(
      long matched, long updated, long deleted, long inserted, List<StagedFile> files) {
    long bytes = 0;
    for (StagedFile file : files) {
      bytes += file.size();
    }
    for (StagedFile file : moved) {
      bytes += file.size();
    }
    return new ChangeReport(
        matched,
        updated,
        deleted,
        inserted,
        dropped,
        masked,
        rewritten,
        files.size() + moved.size(),
        bytes);
  }
}
