package org.ysteron.table;

import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.expr.ColumnRange;

/**
 * A data file that was written but is in no table yet. It can be sent to the process that commits.
 *
 * @param id its id
 * @param start the ledger entry from which its writer started
 * @param size bytes
 * @param rows rows
 * @param schemaVersion the schema it was written by
 * @param lastFieldId the highest field id of that schema
 * @param footerLength bytes of its footer
 * @param footerHash SHA-256 from the footer on
 * @param hash SHA-256 of all of it
 * @param ranges ranges by field id
 * @param origin where its rows were before, when none of them was born or changed with it
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record StagedFile(
    UUID id,
    long start,
    long size,
    long rows,
    long schemaVersion,
    long lastFieldId,
    long footerLength,
    byte[] footerHash,
    byte[] hash,
    Map<Integer, ColumnRange> ranges,
    Optional<Origin> origin) {

  /**
   * Where moved rows come from.
   *
   * @param birth the newest birth among the files they were in
   * @param place the place of the first of those files
   * @param files the numbers of those files
   */
  public record Origin(long birth, long place, Set<Long> files) {}

  /** This file, to which rows were moved unchanged. */
  public StagedFile from(Origin moved) {
    return new StagedFile(
        id,
        start,
        size,
        rows,
        schemaVersion,
        lastFieldId,
        footerLength,
        footerHash,
        hash,
        ranges,
        Optional.of(moved));
  }
}
