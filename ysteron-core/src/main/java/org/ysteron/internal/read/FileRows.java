package org.ysteron.internal.read;

import org.ysteron.data.Batch;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Vector;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;

/**
 * Rows of one data file, and where in it they are. Serials and births are known of rows whose file
 * tells none, or of which they were read. For one thread.
 */
public final class FileRows {
  private static final long UNPLACED = -1;

  private final FileEntry file;
  private final Batch read;
  private final int columns;
  private final long first;
  private final long[] selected;
  private final int[] kept;
  private int[] positions;

  /**
   * Rows that were read.
   *
   * @param columns how many columns are before the hidden ones
   * @param first the position of the first row that was looked at
   * @param selected which of the rows that were looked at these are; null for all
   */
  FileRows(FileEntry file, Batch read, int columns, long first, long[] selected) {
    this(file, read, columns, first, selected, null);
  }

  /**
   * Rows of which nobody asks where they are.
   *
   * @param kept which rows of the batch count; null for all
   */
  static FileRows unplaced(FileEntry file, Batch read, int columns, int[] kept) {
    return new FileRows(file, read, columns, UNPLACED, null, kept);
  }

  private FileRows(
      FileEntry file, Batch read, int columns, long first, long[] selected, int[] kept) {
    this.kept = kept;
    this.file = file;
    this.read = read;
    this.columns = columns;
    this.first = first;
    this.selected = selected;
  }

  public FileEntry file() {
    return file;
  }

  public int size() {
    return kept == null ? read.size() : kept.length;
  }

  /** All rows that were read, and which of them count. */
  SelectedBatch selected() {
    return new SelectedBatch(read, kept, size());
  }

  /** All columns that were read. */
  Batch read() {
    return read;
  }

  /** The rows in the columns that are not hidden. */
  public Batch rows() {
    return Gather.columns(read, columns);
  }

  /** The position of a row in its file. */
  public int position(int row) {
    if (first == UNPLACED) {
      throw new IllegalStateException("nobody was to ask for the places of these rows");
    }
    if (selected == null) {
      return (int) first + row;
    }
    if (positions == null) {
      positions = Gather.positions(selected);
    }
    return (int) first + positions[row];
  }

  /** The serial of a row. */
  public long serial(int row) {
    return columns < read.vectors().size()
        ? file.serial(read.vectors().get(columns), row, position(row))
        : file.numbers().firstSerial() + position(row);
  }

  /** The birth of a row. */
  public long birth(int row) {
    return columns + 1 < read.vectors().size()
        ? file.birth(read.vectors().get(columns + 1), row)
        : file.numbers().births().own();
  }

  /** What the file says of the births of these rows; null where nothing was read. */
  public Vector toldBirths() {
    return columns + 1 < read.vectors().size() ? read.vectors().get(columns + 1) : null;
  }
}
