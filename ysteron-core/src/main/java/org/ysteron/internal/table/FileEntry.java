package org.ysteron.internal.table;

import java.nio.ByteBuffer;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.IntFunction;
import java.util.function.UnaryOperator;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Vector;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ranges;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;

/** What a table knows of one data file. Immutable, thread-safe. */
public final class FileEntry implements Ranges {
  private static final int ID_LENGTH = 36;

  private final Numbers numbers;
  private final UUID id;
  private final byte[] footerHash;
  private final byte[] hash;
  private final RangeTable.RowOf ranges;
  private final RowMask mask;
  private final Map<Integer, Integer> otherIds;

  /**
   * The numbers of a file.
   *
   * @param number the file's number in its table, for life
   * @param place where it stands among the files of its partition
   * @param start the ledger entry from which its writer started
   * @param extent how much is in it
   * @param writtenBy what it was written by
   * @param births the births of its rows
   * @param firstSerial the serial of its first row
   */
  public record Numbers(
      long number,
      long place,
      long start,
      Extent extent,
      WrittenBy writtenBy,
      Births births,
      long firstSerial) {
    public long size() {
      return extent.size;
    }

    public long rows() {
      return extent.rows;
    }

    public long maskedRows() {
      return extent.maskedRows;
    }

    public long footerLength() {
      return extent.footerLength;
    }

    public long layout() {
      return writtenBy.layout;
    }

    public long schema() {
      return writtenBy.schema;
    }

    public long lastFieldId() {
      return writtenBy.lastFieldId;
    }

    public long order() {
      return writtenBy.order;
    }

    private Numbers masking(long masked) {
      Extent less = new Extent(extent.size, extent.footerLength, extent.rows, masked);
      return new Numbers(number, place, start, less, writtenBy, births, firstSerial);
    }
  }

  /**
   * How much is in a file.
   *
   * @param size bytes
   * @param footerLength bytes of the Parquet footer, without the length and magic behind it
   * @param rows rows, masked ones included
   * @param maskedRows rows that no longer count
   */
  public record Extent(long size, long footerLength, long rows, long maskedRows) {}

  /**
   * What a file was written by.
   *
   * @param layout the version of the layout
   * @param schema the version of the schema
   * @param lastFieldId the highest field id at that time: later columns are absent from the file
   * @param order one more than the version of the layout whose sort order its rows are in, or 0
   */
  public record WrittenBy(long layout, long schema, long lastFieldId, long order) {}

  /**
   * When the rows of a file got their values, and when the file came. All are ordinals of commits.
   *
   * @param own the birth of rows that tell none
   * @param since the commit by which the file came into this line of the table
   * @param least the least birth of a row, masked ones included
   * @param greatest the greatest birth of a row, masked ones included
   */
  public record Births(long own, long since, long least, long greatest) {}

  FileEntry(
      Numbers numbers,
      UUID id,
      byte[] footerHash,
      byte[] hash,
      RangeTable.RowOf ranges,
      RowMask mask,
      Map<Integer, Integer> otherIds) {
    this.otherIds = otherIds;
    this.numbers = numbers;
    this.id = id;
    this.footerHash = footerHash;
    this.hash = hash;
    this.ranges = ranges;
    this.mask = mask;
  }

  /**
   * An entry for a new file.
   *
   * @param number the number that the table gives it
   * @param ordinal the ordinal of the commit that brings it
   * @param firstSerial the serial that the table gives its first row
   */
  public static FileEntry of(StagedFile file, long number, long ordinal, long firstSerial) {
    ColumnRange births = file.ranges().get(HiddenColumns.BIRTH_ID);
    boolean told = births != null && births.state() == ColumnRange.State.BOUNDED;
    boolean allTold = told && file.rowsBorn() == 0;
    Numbers numbers =
        new Numbers(
            number,
            file.origin().map(StagedFile.Origin::place).orElse(number),
            file.start(),
            new Extent(file.size(), file.footerLength(), file.rows(), 0),
            new WrittenBy(
                file.form().layout(),
                file.form().schema(),
                file.form().ids().highest(),
                file.order()),
            new Births(
                ordinal,
                ordinal,
                told ? Math.min(births.min(), ordinal) : ordinal,
                allTold ? births.max() : ordinal),
            firstSerial);
    return of(
        numbers,
        file.id(),
        file.footerHash(),
        file.hash(),
        file.ranges(),
        file.form().ids().others());
  }

  /**
   * An entry without a row mask; of fields that have another id in the table, that by the file's.
   */
  static FileEntry of(
      Numbers numbers,
      UUID id,
      byte[] footerHash,
      byte[] hash,
      Map<Integer, ColumnRange> ranges,
      Map<Integer, Integer> otherIds) {
    return new FileEntry(
        numbers,
        id,
        footerHash.clone(),
        hash.clone(),
        new RangeTable.RowOf(RangeTable.of(ranges), 0),
        null,
        otherIds);
  }

  /** The table's id of each field that has another one in the file, by the file's id. */
  Map<Integer, Integer> otherIds() {
    return otherIds;
  }

  /** How the file's field ids stand to the table's. */
  public FieldIds fieldIds() {
    return new FieldIds(numbers.lastFieldId(), otherIds);
  }

  public Numbers numbers() {
    return numbers;
  }

  public long rows() {
    return numbers.rows();
  }

  /** Rows that count. */
  public long liveRows() {
    return numbers.rows() - numbers.maskedRows();
  }

  public long size() {
    return numbers.size();
  }

  /** The rows that no longer count; empty when all do. */
  public Optional<RowMask> mask() {
    return Optional.ofNullable(mask);
  }

  /** The positions of the rows that no longer count; the caller's own. */
  public RoaringBitmap maskedPositions(PageStore pages) {
    return mask == null ? new RoaringBitmap() : mask.positions(pages);
  }

  /** This entry with just those rows masked. */
  FileEntry masked(RoaringBitmap positions, PageBatch batch) {
    if (positions.isEmpty()) {
      return this;
    }
    if (positions.last() < 0 || positions.last() >= numbers.rows()) {
      throw new IllegalArgumentException("a mask of row " + positions.last() + " of " + this);
    }
    Numbers counted = numbers.masking(positions.getLongCardinality());
    return new FileEntry(
        counted, id, footerHash, hash, ranges, RowMask.of(positions, batch), otherIds);
  }

  /**
   * This entry when its file was written anew without the values of some rows, which no longer
   * count: every row that is left is where it was.
   */
  public FileEntry erased(
      StagedFile anew, RoaringBitmap positions, PageStore pages, PageBatch batch) {
    Map<Integer, ColumnRange> told = new TreeMap<>(anew.ranges());
    trackedRanges()
        .forEach(
            (id, range) -> {
              if (Layout.isPart(id)) {
                told.put(id, range);
              }
            });
    Numbers same =
        new Numbers(
            numbers.number,
            numbers.place,
            anew.start(),
            new Extent(anew.size(), anew.footerLength(), anew.rows(), 0),
            numbers.writtenBy,
            numbers.births,
            numbers.firstSerial);
    RoaringBitmap all = maskedPositions(pages);
    all.or(positions);
    return of(same, anew.id(), anew.footerHash(), anew.hash(), told, otherIds).masked(all, batch);
  }

  /** Whether rows were moved or updated into this file, so that it tells their serials itself. */
  public boolean tellsSerials() {
    return ranges.get(HiddenColumns.SERIAL_ID) != null;
  }

  /** Whether rows were moved into this file, so that it tells their births itself. */
  public boolean tellsBirths() {
    return ranges.get(HiddenColumns.BIRTH_ID) != null;
  }

  /** Whether all rows were born later than a commit. */
  public boolean isBornSince(long ordinal) {
    return numbers.births.least > ordinal;
  }

  /** Whether a row, masked or not, was born later than a commit. */
  public boolean hasBornSince(long ordinal) {
    return numbers.births.greatest > ordinal;
  }

  /** The serial of a row, by what the hidden column has for it. */
  public long serial(Vector column, int row, int position) {
    return column.isNull(row)
        ? numbers.firstSerial + position
        : ((Vector.OfLong) column).values()[row];
  }

  /** The birth of a row, by what the hidden column has for it. */
  public long birth(Vector column, int row) {
    return column.isNull(row) ? numbers.births.own : ((Vector.OfLong) column).values()[row];
  }

  /** Whether a row of a serial between two, both included, may be in this file. */
  public boolean mayHoldSerials(long least, long most) {
    boolean own = numbers.firstSerial <= most && numbers.firstSerial + numbers.rows() > least;
    ColumnRange told = ranges.get(HiddenColumns.SERIAL_ID);
    return own
        || (told != null
            && (told.state() == ColumnRange.State.UNKNOWN
                || (told.state() == ColumnRange.State.BOUNDED
                    && told.min() <= most
                    && told.max() >= least)));
  }

  public UUID id() {
    return id;
  }

  byte[] footerHashBytes() {
    return footerHash;
  }

  byte[] hashBytes() {
    return hash;
  }

  /** The SHA-256 of the file from its footer on, in hexadecimal digits. */
  public String footerHash() {
    return HexFormat.of().formatHex(footerHash);
  }

  /** The SHA-256 of the whole file, in hexadecimal digits. */
  public String hash() {
    return HexFormat.of().formatHex(hash);
  }

  /** This entry with its ranges in another table. */
  FileEntry with(RangeTable.RowOf same) {
    return new FileEntry(numbers, id, footerHash, hash, same, mask, otherIds);
  }

  /** This entry whose mask, when that has a page, has it elsewhere. */
  FileEntry withMaskMoved(UnaryOperator<PageRef> change) {
    return mask == null
        ? this
        : new FileEntry(numbers, id, footerHash, hash, ranges, mask.moved(change), otherIds);
  }

  RangeTable.RowOf ranges() {
    return ranges;
  }

  /** The file's name in the store. */
  public String objectName(UUID tableId) {
    return objectName(tableId, numbers.start, id);
  }

  /** The name of a data file in the store. */
  public static String objectName(UUID tableId, long start, UUID id) {
    return directory(tableId) + "/" + Numbering.flat(start) + "-" + id + ".parquet";
  }

  /** The id in a name of a data file; empty when it is none. */
  public static Optional<UUID> idOf(String objectName) {
    int end = objectName.length() - ".parquet".length();
    if (!objectName.endsWith(".parquet") || end < ID_LENGTH) {
      return Optional.empty();
    }
    try {
      return Optional.of(UUID.fromString(objectName.substring(end - ID_LENGTH, end)));
    } catch (IllegalArgumentException e) {
      return Optional.empty();
    }
  }

  /** Where the data files of a table are. */
  public static String directory(UUID tableId) {
    return "data/" + tableId;
  }

  @Override
  public ColumnRange range(int fieldId) {
    ColumnRange range = ranges.get(fieldId);
    if (range != null) {
      return range;
    }
    return fieldId > numbers.lastFieldId() && !Layout.isReserved(fieldId)
        ? ColumnRange.ABSENT
        : ColumnRange.UNKNOWN;
  }

  /** The ranges of all tracked columns, by field id. */
  public Map<Integer, ColumnRange> trackedRanges() {
    return ranges.all();
  }

  /** The key under which a table's tree holds this entry: layout, parts, place, number. */
  public byte[] key() {
    return key(numbers.layout(), ranges::get, numbers.place, numbers.number);
  }

  /** The key of the entry of a file whose ranges tell its parts. */
  static byte[] key(long layout, IntFunction<ColumnRange> ranges, long place, long number) {
    int rules = 0;
    while (rules < Layout.MOST_RULES && ranges.apply(Layout.partId(layout, rules)) != null) {
      rules++;
    }
    ByteBuffer key = ByteBuffer.allocate(20 + 9 * rules).putInt((int) layout);
    for (int rule = 0; rule < rules; rule++) {
      ColumnRange part = ranges.apply(Layout.partId(layout, rule));
      boolean known = part.state() == ColumnRange.State.BOUNDED;
      // Turned over, the sign bit makes the bytes order as the numbers do.
      key.put((byte) (known ? 1 : 0)).putLong(known ? part.min() ^ Long.MIN_VALUE : 0);
    }
    return key.putLong(place).putLong(number).array();
  }

  /** Whether another entry of this file, of another version, knows it as the same. */
  public boolean isSameFileAs(FileEntry other) {
    return Arrays.equals(hash, other.hash)
        && numbers.number == other.numbers.number
        && size() == other.size()
        && rows() == other.rows();
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof FileEntry entry
        && numbers.equals(entry.numbers)
        && id.equals(entry.id)
        && Arrays.equals(hash, entry.hash)
        && Arrays.equals(footerHash, entry.footerHash)
        && Objects.equals(mask, entry.mask)
        && otherIds.equals(entry.otherIds)
        && trackedRanges().equals(entry.trackedRanges());
  }

  @Override
  public int hashCode() {
    return id.hashCode();
  }

  @Override
  public String toString() {
    return "file " + numbers.number + " (" + id + ")";
  }
}
