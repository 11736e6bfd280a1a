package org.ysteron.internal.table;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.report.ChangeReport;

/**
 * A data file that was written but is in no table yet. It can be sent to the process that commits.
 *
 * @param id its id
 * @param start the ledger entry from which its writer started
 * @param size bytes
 * @param rows rows
 * @param form the schema and layout it was written by
 * @param footerLength bytes of its footer
 * @param footerHash SHA-256 from the footer on
 * @param hash SHA-256 of all of it
 * @param ranges ranges by field id
 * @param order one more than the version of the layout whose sort order its rows are in, or 0
 * @param origin where its rows were before, when they were moved
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record StagedFile(
    UUID id,
    long start,
    long size,
    long rows,
    Form form,
    long footerLength,
    byte[] footerHash,
    byte[] hash,
    Map<Integer, ColumnRange> ranges,
    long order,
    Optional<Origin> origin) {

  /**
   * By what a file was written.
   *
   * @param schema the schema's version
   * @param layout the layout's version
   * @param ids how its field ids stand to the table's
   */
  public record Form(long schema, long layout, FieldIds ids) {
    /** By a schema and a layout of the table itself. */
    public static Form of(long schema, long layout, long lastFieldId) {
      return new Form(schema, layout, new FieldIds(lastFieldId, Map.of()));
    }
  }

  /**
   * Where moved rows come from.
   *
   * @param place the place of the first of the files they were in
   * @param files the numbers of those files, and of those from which their rows were moved before
   *     in the same transaction
   */
  public record Origin(long place, Set<Long> files) {}

  /** This file, to which rows were moved unchanged. */
  public StagedFile from(Origin moved) {
    return with(form, ranges, order, Optional.of(moved));
  }

  /** This file as one written by another form, its ranges under the ids of that. */
  public StagedFile as(Form other, Map<Integer, ColumnRange> rangesThere, long orderThere) {
    return with(other, rangesThere, orderThere, origin);
  }

  private StagedFile with(
      Form by, Map<Integer, ColumnRange> known, long sorted, Optional<Origin> from) {
    return new StagedFile(
        id, start, size, rows, by, footerLength, footerHash, hash, known, sorted, from);
  }

  /**
   * What inserting rows does.
   *
   * @param rows how many were taken; of rows of one key some may be in no file
   * @param files the files they were written to
   */
  public static ChangeReport inserted(long rows, List<StagedFile> files) {
    long bytes = files.stream().mapToLong(StagedFile::size).sum();
    return ChangeReport.inserted(rows, files.size(), bytes);
  }

  /** How many of its rows tell no birth of their own, having been born with it. */
  public long rowsBorn() {
    ColumnRange births = ranges.get(HiddenColumns.BIRTH_ID);
    return births == null ? rows : births.nulls();
  }

  /** Whether rows that are in a file were moved to this one. */
  public boolean holdsRowsOf(long file) {
    return origin.isPresent() && origin.get().files().contains(file);
  }

  /** Where its entry stands in the tree under a file number. */
  public byte[] key(long number) {
    return FileEntry.key(
        form.layout(), ranges::get, origin.map(Origin::place).orElse(number), number);
  }
}
