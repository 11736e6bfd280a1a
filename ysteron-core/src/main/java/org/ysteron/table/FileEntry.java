package org.ysteron.table;

import java.nio.ByteBuffer;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.function.IntFunction;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Serials;
import org.ysteron.expr.ColumnRange;
import org.ysteron.expr.Ranges;
import org.ysteron.file.FieldIds;
import org.ysteron.tree.PageBatch;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageStore;

/** What a table knows of one data file. Immutable, thread-safe. */
public final class FileEntry implements Ranges {
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
   * @param size bytes
   * @param rows rows, masked ones included
   * @param maskedRows rows that no longer count
   * @param layout the version of the layout it was written by
   * @param schema the version of the schema it was written by
   * @param lastFieldId the highest field id at that time: later columns are absent from it
   * @param birth the newest table version in which any of its rows was born
   * @param firstSerial the serial of its first row
   * @param footerLength bytes of the Parquet footer, without the length and magic behind it
   */
  public record Numbers(
      long number,
      long place,
      long start,
      long size,
      long rows,
      long maskedRows,
      long layout,
      long schema,
      long lastFieldId,
      long birth,
      long firstSerial,
      long footerLength) {}

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

  /** An entry for a new file. */
  public static FileEntry of(
      Numbers numbers, UUID id, byte[] footerHash, byte[] hash, Map<Integer, ColumnRange> ranges) {
    return of(numbers, id, footerHash, hash, ranges, Map.of());
  }

  /** An entry for a new file, some of whose field ids are not the table's. */
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
    return new FieldIds(numbers.lastFieldId, otherIds);
  }

  /** For people: what values of a column are in this file, by a rule of its layout. */
  String partText(Partitioner rule) {
    ColumnRange part = ranges.get(rule.partId());
    if (part == null || part.state() != ColumnRange.State.BOUNDED) {
      return "null";
    }
    ColumnRange values = range(rule.fieldId());
    return rule.show(part.min())
        .orElseGet(
            () -> {
              String text = values.toString().replaceFirst("^\\[(.*), \\1\\]$", "$1");
              return values.state() == ColumnRange.State.BOUNDED ? text : "one value";
            });
  }

  public Numbers numbers() {
    return numbers;
  }

  public long rows() {
    return numbers.rows;
  }

  /** Rows that count. */
  public long liveRows() {
    return numbers.rows - numbers.maskedRows;
  }

  public long size() {
    return numbers.size;
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
    if (positions.last() < 0 || positions.last() >= numbers.rows) {
      throw new IllegalArgumentException("a mask of row " + positions.last() + " of " + this);
    }
    Numbers of = numbers;
    Numbers counted =
        new Numbers(
            of.number,
            of.place,
            of.start,
            of.size,
            of.rows,
            positions.getLongCardinality(),
            of.layout,
            of.schema,
            of.lastFieldId,
            of.birth,
            of.firstSerial,
            of.footerLength);
    return new FileEntry(
        counted, id, footerHash, hash, ranges, RowMask.of(positions, batch), otherIds);
  }

  /** Whether rows were moved into this file, so that it tells their serials itself. */
  public boolean tellsSerials() {
    return ranges.get(Serials.FIELD_ID) != null;
  }

  /** Whether a row of a serial between two, both included, may be in this file. */
  public boolean mayHoldSerials(long least, long most) {
    boolean own = numbers.firstSerial <= most && numbers.firstSerial + numbers.rows > least;
    ColumnRange told = ranges.get(Serials.FIELD_ID);
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

  RangeTable.RowOf ranges() {
    return ranges;
  }

  /** The file's name in the store. */
  public String objectName(UUID tableId) {
    return objectName(tableId, numbers.start, id);
  }

  /** The name of a data file in the store. */
  public static String objectName(UUID tableId, long start, UUID id) {
    return "data/" + tableId + "/" + PageHome.nine(start) + "-" + id + ".parquet";
  }

  @Override
  public ColumnRange range(int fieldId) {
    ColumnRange range = ranges.get(fieldId);
    if (range != null) {
      return range;
    }
    return fieldId > numbers.lastFieldId && !Layout.isReserved(fieldId)
        ? ColumnRange.ABSENT
        : ColumnRange.UNKNOWN;
  }

  /** The ranges of all tracked columns, by field id. */
  public Map<Integer, ColumnRange> trackedRanges() {
    return ranges.all();
  }

  /** The key under which a table's tree holds this entry: layout, parts, place, number. */
  public byte[] key() {
    return key(numbers.layout, ranges::get, numbers.place, numbers.number);
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
