package org.ysteron.internal.table;

import java.util.List;
import java.util.Map;
import java.util.Optional;
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
      long greatestLastFieldId) {
    public static final Numbers NONE = new Numbers(0, 0, 0, 0, Long.MAX_VALUE, 0);

    private Numbers and(Numbers other) {
      return new Numbers(
          rows + other.rows,
          bytes + other.bytes,
          maskedRows + other.maskedRows,
          Math.max(greatestBirth, other.greatestBirth),
          Math.min(leastLastFieldId, other.leastLastFieldId),
          Math.max(greatestLastFieldId, other.greatestLastFieldId));
    }
  }

  FileSummary(Numbers numbers, RangeTable.RowOf ranges) {
    this.numbers = numbers;
    this.ranges = ranges;
  }

  static FileSummary of(FileEntry entry) {
    return new FileSummary(numbersOf(entry), entry.ranges());
  }

  private static Numbers numbersOf(FileEntry entry) {
    FileEntry.Numbers of = entry.numbers();
    return new Numbers(
        of.rows(),
        of.size(),
        of.maskedRows(),
        of.births().greatest(),
        of.lastFieldId(),
        of.lastFieldId());
  }

  static FileSummary combine(List<FileSummary> parts) {
    Map<Integer, ColumnRange> ranges = new TreeMap<>();
    List<RangeTable.RowOf> rowsOf = parts.stream().map(FileSummary::ranges).toList();
    for (int id : RangeTable.fieldIds(rowsOf)) {
      ranges.put(id, unite(parts, RangeTable.column(rowsOf, id), id));
    }
    return new FileSummary(numbers(parts), new RangeTable.RowOf(RangeTable.of(ranges), 0));
  }

  /** The numbers of all parts. */
  static Numbers numbers(List<FileSummary> parts) {
    return parts.stream().map(FileSummary::numbers).reduce(Numbers.NONE, Numbers::and);
  }

  /** The numbers of some files. */
  static Numbers numbersOf(List<FileEntry> entries) {
    return entries.stream().map(FileSummary::numbersOf).reduce(Numbers.NONE, Numbers::and);
  }

  /** Where the numbers are others than those that were found. */
  Optional<String> contradiction(Numbers found) {
    return numbers.equals(found)
        ? Optional.empty()
        : Optional.of(
            "its parent page summarizes it as %s, but it contains %s".formatted(numbers, found));
  }

  /** A column whose range is not wide enough for what was found. */
  Optional<String> loosenedBy(FileSummary found) {
    for (Map.Entry<Integer, ColumnRange> told : ranges.all().entrySet()) {
      ColumnRange range = told.getValue();
      ColumnRange actual = found.range(told.getKey());
      ColumnRange bounds = range.withNulls(-1);
      boolean isTrue =
          range.state() == ColumnRange.State.UNKNOWN
              || (bounds.unite(actual.withNulls(-1)).equals(bounds)
                  && (range.nulls() < 0 || range.nulls() == actual.nulls()));
      if (!isTrue) {
        return Optional.of(
            "its parent page gives the range of field %d as %s, but it is %s"
                .formatted(told.getKey(), range, actual));
      }
    }
    return Optional.empty();
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
