package org.ysteron.table;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.tree.Edit;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageStore;
import org.ysteron.tree.PageTree;

/**
 * A version of a table in the making: files added, removed and masked, all in one edit of the file
 * tree, with the counts and totals that follow. For one thread.
 */
public final class NextVersion {
  private final TablePage page;
  private final PageStore pages;
  private final PageBatch batch;
  private final Map<byte[], Edit<FileEntry>> edits = new TreeMap<>(Arrays::compareUnsigned);
  private final List<Edit<WriterRecord>> writers = new ArrayList<>();
  private long nextFileNumber;
  private long nextSerial;
  private long filesAdded;
  private long rowsAdded;
  private long filesRemoved;
  private long rowsRemoved;
  private long filesMasked;
  private long rowsMoved;
  private long bytes;

  /**
   * Starts.
   *
   * @param page the version so far, made by {@link TablePage#next} or {@link TablePage#draft}
   */
  public NextVersion(TablePage page, PageStore pages, PageBatch batch) {
    this.page = page;
    this.pages = pages;
    this.batch = batch;
    this.nextFileNumber = page.nextFileNumber();
    this.nextSerial = page.nextSerial();
  }

  public TablePage page() {
    return page;
  }

  /** Adds a file, which gets its number, serials and birth. */
  public FileEntry add(StagedFile file) {
    return add(file, new RoaringBitmap());
  }

  /** Adds a file some of whose rows do not count. */
  public FileEntry add(StagedFile file, RoaringBitmap masked) {
    long number = nextFileNumber++;
    boolean moved = file.origin().isPresent();
    FileEntry entry =
        FileEntry.of(
                new FileEntry.Numbers(
                    number,
                    file.origin().map(StagedFile.Origin::place).orElse(number),
                    file.start(),
                    file.size(),
                    file.rows(),
                    0,
                    file.form().layout(),
                    file.form().schema(),
                    file.form().ids().highest(),
                    file.origin().map(StagedFile.Origin::birth).orElse(page.version()),
                    nextSerial,
                    file.footerLength()),
                file.id(),
                file.footerHash(),
                file.hash(),
                file.ranges(),
                file.form().ids().others())
            .masked(masked, batch);
    nextSerial += file.rows();
    edits.put(entry.key(), Edit.put(entry.key(), entry));
    filesAdded++;
    if (moved) {
      rowsMoved += entry.liveRows();
    } else {
      rowsAdded += entry.liveRows();
    }
    bytes += entry.size();
    return entry;
  }

  /** Removes a file; those of its rows that a file with an {@code origin} has are moved. */
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

  /** Remembers what a named writer has done. */
  public void writer(WriterRecord record) {
    writers.add(Edit.put(record.key(), record));
  }

  /** The version with all of that in it. */
  public TablePage build() {
    PageTree.Root files = page.fileTree(pages).apply(new ArrayList<>(edits.values()), batch).root();
    HistoryRecord record = page.record();
    HistoryRecord.Counts before = record.counts();
    long gone = rowsRemoved - rowsMoved;
    HistoryRecord.Counts counts =
        new HistoryRecord.Counts(
            before.filesAdded() + filesAdded,
            before.rowsAdded() + rowsAdded,
            before.filesRemoved() + filesRemoved,
            before.rowsRemoved() + gone,
            before.filesMasked() + filesMasked);
    HistoryRecord counted =
        new HistoryRecord(
            record.version(),
            record.commit(),
            record.operation(),
            counts,
            record.totals().plus(filesAdded - filesRemoved, rowsAdded - gone, bytes),
            record.schemaVersion(),
            Optional.empty());
    return new TablePage(
        page.id(),
        page.name(),
        page.form(),
        page.olderSchemas(),
        page.olderLayouts(),
        page.properties(),
        nextFileNumber,
        nextSerial,
        files,
        page.history(),
        page.writerTree(pages).apply(writers, batch).root(),
        counted);
  }
}
