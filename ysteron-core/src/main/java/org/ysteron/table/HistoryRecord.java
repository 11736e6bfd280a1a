package org.ysteron.table;

import java.util.Optional;
import org.ysteron.data.Values;
import org.ysteron.tree.ByteIn;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * One version of a table.
 *
 * @param version its number
 * @param commit the commit that made it
 * @param operation what was done: {@code create}, {@code append}, …
 * @param counts files and rows added and removed, files masked
 * @param totals what the table holds after it
 * @param schemaVersion the schema's version
 * @param page the table page of this version; empty in that page itself
 */
public record HistoryRecord(
    long version,
    CommitStamp commit,
    String operation,
    Counts counts,
    Totals totals,
    long schemaVersion,
    Optional<PageRef> page) {

  private static final int HAS_PAGE = 1;
  private static final int HAS_MASKED = 2;

  /** What a commit did to a table. */
  public record Counts(
      long filesAdded, long rowsAdded, long filesRemoved, long rowsRemoved, long filesMasked) {
    public static final Counts NOTHING = new Counts(0, 0, 0, 0, 0);
  }

  /** What a table holds. */
  public record Totals(long files, long rows, long bytes) {
    public static final Totals NOTHING = new Totals(0, 0, 0);

    /** These and some more; negative numbers for less. */
    public Totals plus(long moreFiles, long moreRows, long moreBytes) {
      return new Totals(files + moreFiles, rows + moreRows, bytes + moreBytes);
    }
  }

  HistoryRecord at(PageRef ref) {
    return new HistoryRecord(
        version, commit, operation, counts, totals, schemaVersion, Optional.of(ref));
  }

  void write(ByteOut out, PageHome home) {
    out.varint(version);
    commit.write(out);
    out.text(operation);
    out.varint(counts.filesAdded).varint(counts.rowsAdded);
    out.varint(counts.filesRemoved).varint(counts.rowsRemoved);
    out.varint(totals.files).varint(totals.rows).varint(totals.bytes).varint(schemaVersion);
    out.u8((page.isPresent() ? HAS_PAGE : 0) | (counts.filesMasked > 0 ? HAS_MASKED : 0));
    if (counts.filesMasked > 0) {
      out.varint(counts.filesMasked);
    }
    page.ifPresent(ref -> ref.write(out, home));
  }

  static HistoryRecord read(ByteIn in, PageHome home) {
    long version = in.varint();
    CommitStamp commit = CommitStamp.read(in);
    String operation = in.text();
    long[] counts = {in.varint(), in.varint(), in.varint(), in.varint()};
    Totals totals = new Totals(in.varint(), in.varint(), in.varint());
    long schemaVersion = in.varint();
    int has = in.u8();
    long masked = (has & HAS_MASKED) != 0 ? in.varint() : 0;
    return new HistoryRecord(
        version,
        commit,
        operation,
        new Counts(counts[0], counts[1], counts[2], counts[3], masked),
        totals,
        schemaVersion,
        (has & HAS_PAGE) != 0 ? Optional.of(PageRef.read(in, home)) : Optional.empty());
  }

  /** Pages of a table's history, by version. */
  static final class Format extends RecordFormat<HistoryRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(2);
    }

    @Override
    void write(HistoryRecord value, ByteOut out, PageHome home) {
      value.write(out, home);
    }

    @Override
    HistoryRecord read(ByteIn in, PageHome home) {
      return HistoryRecord.read(in, home);
    }

    @Override
    long time(HistoryRecord value) {
      return Values.micros(value.commit().time());
    }
  }
}
