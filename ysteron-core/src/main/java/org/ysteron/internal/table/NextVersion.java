package org.ysteron.internal.table;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.report.TableVersion;

/**
 * A version of a table in the making: files added, removed and masked, all in one edit of the file
 * tree, with the counts and totals that follow. For one thread.
 */
public final class NextVersion {
  private final VersionPage page;
  private final TableNumbers first;
  private final PageStore pages;
  private final PageBatch batch;
  private final Map<byte[], Edit<FileEntry>> edits = new TreeMap<>(Arrays::compareUnsigned);
  private long nextFile;
  private long nextSerial;
  private long filesAdded;
  private long rowsBorn;
  private long rowsMoved;
  private long filesRemoved;
  private long rowsRemoved;
  private long filesMasked;
  private long bytes;

  /**
   * Starts.
   *
   * @param page the version so far, made by {@link VersionPage#next} or {@link VersionPage#draft}
   * @param numbers what the table gives out next
   */
  public NextVersion(VersionPage page, TableNumbers numbers, PageStore pages, PageBatch batch) {
    this.page = page;
    this.first = numbers;
    this.pages = pages;
    this.batch = batch;
    this.nextFile = numbers.file();
    this.nextSerial = numbers.serial();
  }

  /** Adds a file, which gets its number, serials and birth. */
  public FileEntry add(StagedFile file) {
    return add(file, new RoaringBitmap(), 0);
  }

  /**
   * Adds a file some of whose rows do not count.
   *
   * @param maskedBorn how many of those were born with it, not moved
   */
  public FileEntry add(StagedFile file, RoaringBitmap masked, long maskedBorn) {
    FileEntry entry =
        FileEntry.of(file, nextFile++, page.ordinal(), nextSerial).masked(masked, batch);
    nextSerial += file.rows();
    edits.put(entry.key(), Edit.put(entry.key(), entry));
    filesAdded++;
    long born = file.rowsBorn() - maskedBorn;
    rowsBorn += born;
    rowsMoved += entry.liveRows() - born;
    bytes += entry.size();
    return entry;
  }

  /** Removes a file; those of its rows that another file tells to be older are moved. */
  public void remove(FileEntry entry) {
    edits.put(entry.key(), Edit.remove(entry.key()));
    filesRemoved++;
    rowsRemoved += entry.liveRows();
    bytes -= entry.size();
  }

  /** Masks more rows of a file. */
  public FileEntry mask(FileEntry entry, RoaringBitmap more) {
    RoaringBitmap all = entry.maskedPositions(pages);
    all.or(more);
    FileEntry masked = entry.masked(all, batch);
    edits.put(entry.key(), Edit.put(entry.key(), masked));
    filesMasked++;
    rowsRemoved += entry.liveRows() - masked.liveRows();
    return masked;
  }

  /** What the table gives out after this. */
  public TableNumbers numbers() {
    return first.withRows(nextFile, nextSerial);
  }

  /**
   * The version with all of that in it.
   *
   * @param onlyRows whether nothing was done but to rows
   */
  public VersionPage build(boolean onlyRows) {
    PageTree.Root files = page.fileTree(pages).apply(List.copyOf(edits.values()), batch).root();
    HistoryRecord record = page.record();
    TableVersion.Counts before = record.counts();
    long gone = rowsRemoved - rowsMoved;
    TableVersion.Counts counts =
        new TableVersion.Counts(
            before.filesAdded() + filesAdded,
            before.rowsAdded() + rowsBorn,
            before.filesRemoved() + filesRemoved,
            before.rowsRemoved() + gone,
            before.filesMasked() + filesMasked);
    HistoryRecord.Lives lives =
        new HistoryRecord.Lives(record.lives().born() + rowsBorn, record.lives().gone() + gone);
    boolean onlyMoved = onlyRows && filesAdded + filesRemoved > 0 && rowsBorn == 0 && gone == 0;
    HistoryRecord done =
        record.with(
            counts,
            record.totals().plus(filesAdded - filesRemoved, rowsBorn - gone, bytes),
            lives,
            nextSerial,
            onlyMoved);
    return page.withFiles(files, done);
  }
}
