package org.ysteron.internal.table;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ranges;
import org.ysteron.internal.layout.Layout;

/** What an inner node knows of the files below a child. Immutable, thread-safe. */
public final class FileSummary implements Ranges {
  private final Numbers numbers;
  private final RangeTable.RowOf ranges;

  /**
   * The numbers of some files.
   *
   * @param rows all rows
   * @param bytes all bytes
   * @param maskedRows all masked rows
   * @param greatestBirth the greatest birth
   * @param leastLastFieldId the least of the files' last field ids
   * @param greatestLastFieldId the greatest of the files' last field ids
   */
  public record Numbers(
      long rows,
      long bytes,
      long maskedRows,
      long greatestBirth,
      long leastLastFieldId,
      long greatestLastFieldId) {}

  FileSummary(Numbers numbers, RangeTable.RowOf ranges) {
    this.numbers = numbers;
    this.ranges = ranges;
  }

  static FileSummary of(FileEntry entry) {
    FileEntry.Numbers of = entry.numbers();
    return new FileSummary(
        new Numbers(
            of.rows(),
            of.size(),
            of.maskedRows(),
            of.births().greatest(),
            of.lastFieldId(),
            of.lastFieldId()),
        entry.ranges());
  }

  static FileSummary combine(List<FileSummary> parts) {
    Map<Integer, ColumnRange> ranges = new TreeMap<>();
    List<RangeTable.RowOf> rowsOf = parts.stream().map(FileSummary::ranges).toList();
    for (int id : RangeTable.fieldIds(rowsOf)) {
      ranges.put(id, unite(parts, RangeTable.column(rowsOf, id), id));
    }
    long rows = 0;
    long bytes = 0;
    long masked = 0;
    long birth = 0;
    long least = Long.MAX_VALUE;
    long greatest = 0;
    for (FileSummary part : parts) {
      rows += part.numbers.rows;
      bytes += part.numbers.bytes;
      masked += part.numbers.maskedRows;
      birth = Math.max(birth, part.numbers.greatestBirth);
      least = Math.min(least, part.numbers.leastLastFieldId);
      greatest = Math.max(greatest, part.numbers.greatestLastFieldId);
    }
    return new FileSummary(
        new Numbers(rows, bytes, masked, birth, least, greatest),
        new RangeTable.RowOf(RangeTable.of(ranges), 0));
  }

  private static ColumnRange unite(List<FileSummary> parts, ColumnRange[] known, int id) {
    ColumnRange united = null;
    for (int i = 0; i < known.length; i++) {
      ColumnRange range = known[i] == null ? parts.get(i).unsaid(id) : known[i];
      united = united == null ? range : united.unite(range);
      if (united.state() == ColumnRange.State.UNKNOWN) {
        break;
      }
    }
    return united;
  }

  public Numbers numbers() {
    return numbers;
  }

  RangeTable.RowOf ranges() {
    return ranges;
  }

  @Override
  public ColumnRange range(int fieldId) {
    ColumnRange range = ranges.get(fieldId);
    return range == null ? unsaid(fieldId) : range;
  }

  /** What it means that nothing is said of a field. */
  private ColumnRange unsaid(int fieldId) {
    return fieldId > numbers.greatestLastFieldId && !Layout.isReserved(fieldId)
        ? ColumnRange.ABSENT
        : ColumnRange.UNKNOWN;
  }
}
