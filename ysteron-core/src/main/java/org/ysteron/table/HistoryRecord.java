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
 * @param counts files and rows added and removed
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

  /** What a commit did to a table. */
  public record Counts(long filesAdded, long rowsAdded, long filesRemoved, long rowsRemoved) {
    public static final Counts NOTHING = new Counts(0, 0, 0, 0);
  }

  /** What a table holds. */
  public record Totals(long files, long rows, long bytes) {
    public static final Totals NOTHING = new Totals(0, 0, 0);

    /** These and one more file. */
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
    out.u8(page.isPresent() ? 1 : 0);
    page.ifPresent(ref -> ref.write(out, home));
  }

  static HistoryRecord read(ByteIn in, PageHome home) {
    return new HistoryRecord(
        in.varint(),
        CommitStamp.read(in),
        in.text(),
        new Counts(in.varint(), in.varint(), in.varint(), in.varint()),
        new Totals(in.varint(), in.varint(), in.varint()),
        in.varint(),
        in.u8() == 1 ? Optional.of(PageRef.read(in, home)) : Optional.empty());
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
