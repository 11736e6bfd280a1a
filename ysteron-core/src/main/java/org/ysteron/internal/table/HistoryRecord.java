package org.ysteron.internal.table;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.ysteron.data.Values;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

/**
 * One version of a table.
 *
 * @param version its number
 * @param commit the commit that made it
 * @param operation what was done: {@code create}, {@code append}, …
 * @param counts files and rows added and removed, files masked
 * @param totals what the table holds after it
 * @param schemaVersion the schema's version
 * @param lives how many rows were born and went, ever
 * @param nextSerial the serial of the next row after it
 * @param marks what else there is to it
 * @param page the version page; empty in that page itself
 * @param unread what a later program says of it
 */
public record HistoryRecord(
    long version,
    CommitStamp commit,
    String operation,
    TableVersion.Counts counts,
    TableVersion.Totals totals,
    long schemaVersion,
    Lives lives,
    long nextSerial,
    Marks marks,
    Optional<PageRef> page,
    Unread unread) {

  private static final int ONLY_MOVED = 1;
  private static final int HAS_MASKED = 2;
  private static final int REDACTED = 4;
  private static final int MISSING = 8;
  private static final int HAS_PAGE = 16;
  private static final int REWOUND = 32;

  /**
   * Rows since the table was created. An updated row is born and gone; a moved one is neither.
   *
   * @param born rows that were inserted or changed
   * @param gone rows that were deleted or changed
   */
  public record Lives(long born, long gone) {
    public static final Lives NONE = new Lives(0, 0);
  }

  /**
   * What else there is to a version.
   *
   * @param onlyMoved whether rows were moved between files and nothing else was done
   * @param redacted whether texts of it were redacted
   * @param missing the time of the first version that is missing before it: times from then on,
   *     before its own, have expired
   * @param rewoundTo the earlier version whose rows and form it took back; which rows were born or
   *     gone is then not known, and its counters say nothing of it
   */
  public record Marks(
      boolean onlyMoved, boolean redacted, Optional<Instant> missing, Optional<Long> rewoundTo) {
    public static final Marks NONE = new Marks(false, false, Optional.empty(), Optional.empty());
  }

  /** The record of a version in which nothing was done to rows yet. */
  static HistoryRecord of(
      long version,
      CommitStamp commit,
      String operation,
      TableVersion.Totals totals,
      long schemaVersion,
      Lives lives,
      long nextSerial) {
    return new HistoryRecord(
        version,
        commit,
        operation,
        TableVersion.Counts.NOTHING,
        totals,
        schemaVersion,
        lives,
        nextSerial,
        Marks.NONE,
        Optional.empty(),
        Unread.NOTHING);
  }

  /** A record in the place of one that is lost, of which only that is known. */
  public static HistoryRecord lost(long version, Instant before, TableVersion.Totals totals) {
    CommitStamp unknown = new CommitStamp(0, 0, new UUID(0, 0), before, "", "", "", "");
    return of(version, unknown, "", totals, 0, Lives.NONE, 0);
  }

  /** What a caller is told of it. */
  public TableVersion told() {
    return new TableVersion(
        version,
        commit,
        operation,
        counts,
        totals,
        schemaVersion,
        marks.onlyMoved,
        marks.redacted,
        marks.rewoundTo);
  }

  /** This record with the page it is of. */
  public HistoryRecord at(PageRef ref) {
    return at(Optional.of(ref));
  }

  /** This record as its own page has it. */
  public HistoryRecord inItsPage() {
    return at(Optional.empty());
  }

  private HistoryRecord at(Optional<PageRef> ref) {
    return new HistoryRecord(
        version,
        commit,
        operation,
        counts,
        totals,
        schemaVersion,
        lives,
        nextSerial,
        marks,
        ref,
        unread);
  }

  /** This record when those before it are gone, the first of which was made at a time. */
  public HistoryRecord afterGap(Instant first) {
    Marks after = new Marks(marks.onlyMoved, marks.redacted, Optional.of(first), marks.rewoundTo);
    return with(counts, totals, lives, nextSerial, after);
  }

  /**
   * This record with texts of its commit redacted, or rows erased from its version: those that
   * counted in it are as gone as if they had been deleted before.
   */
  public HistoryRecord redacted(CommitStamp less, TableVersion.Totals holds) {
    Marks marked = new Marks(marks.onlyMoved, true, marks.missing, marks.rewoundTo);
    return new HistoryRecord(
        version,
        less,
        operation,
        counts,
        holds,
        schemaVersion,
        livesOf(holds),
        nextSerial,
        marked,
        page,
        unread);
  }

  /** This record when some rows are lost, which are as gone as if they had been deleted. */
  HistoryRecord left(TableVersion.Totals holds) {
    return with(counts, holds, livesOf(holds), nextSerial, marks);
  }

  private Lives livesOf(TableVersion.Totals less) {
    return new Lives(lives.born, lives.gone + totals.rows() - less.rows());
  }

  HistoryRecord withSchema(long version) {
    return new HistoryRecord(
        this.version,
        commit,
        operation,
        counts,
        totals,
        version,
        lives,
        nextSerial,
        marks,
        page,
        unread);
  }

  /** This record when it takes back what the table was at an earlier version. */
  HistoryRecord rewoundTo(HistoryRecord earlier) {
    Marks marked = new Marks(false, marks.redacted, marks.missing, Optional.of(earlier.version));
    return with(counts, earlier.totals, lives, nextSerial, marked);
  }

  /** This record with what was done to rows. */
  HistoryRecord with(
      TableVersion.Counts did,
      TableVersion.Totals holds,
      Lives since,
      long next,
      boolean onlyMoved) {
    return with(
        did,
        holds,
        since,
        next,
        new Marks(onlyMoved, marks.redacted, marks.missing, marks.rewoundTo));
  }

  private HistoryRecord with(
      TableVersion.Counts did, TableVersion.Totals holds, Lives since, long next, Marks marked) {
    return new HistoryRecord(
        version, commit, operation, did, holds, schemaVersion, since, next, marked, page, unread);
  }

  void write(ByteOut out, PagePlace place) {
    out.varint(version);
    RecordFormat.writeStamp(commit, out);
    out.text(operation);
    out.varint(counts.filesAdded()).varint(counts.rowsAdded());
    out.varint(counts.filesRemoved()).varint(counts.rowsRemoved());
    out.varint(totals.files()).varint(totals.rows()).varint(totals.bytes()).varint(schemaVersion);
    out.varint(lives.born).varint(lives.gone).varint(nextSerial);
    out.u8(
        (marks.onlyMoved ? ONLY_MOVED : 0)
            | (counts.filesMasked() > 0 ? HAS_MASKED : 0)
            | (marks.redacted ? REDACTED : 0)
            | (marks.missing.isPresent() ? MISSING : 0)
            | (page.isPresent() ? HAS_PAGE : 0)
            | (marks.rewoundTo.isPresent() ? REWOUND : 0));
    if (counts.filesMasked() > 0) {
      out.varint(counts.filesMasked());
    }
    marks.missing.ifPresent(time -> out.signed(Values.micros(time)));
    marks.rewoundTo.ifPresent(out::varint);
    page.ifPresent(ref -> ref.write(out, place));
    unread.write(out);
  }

  static HistoryRecord read(ByteIn in, PagePlace place) {
    long version = in.varint();
    CommitStamp commit = RecordFormat.readStamp(in);
    String operation = in.text();
    long[] counts = {in.varint(), in.varint(), in.varint(), in.varint()};
    TableVersion.Totals totals = new TableVersion.Totals(in.varint(), in.varint(), in.varint());
    long schemaVersion = in.varint();
    Lives lives = new Lives(in.varint(), in.varint());
    long nextSerial = in.varint();
    int flags = in.u8();
    long masked = (flags & HAS_MASKED) != 0 ? in.varint() : 0;
    Optional<Instant> missing =
        (flags & MISSING) != 0 ? Optional.of(Values.instant(in.signed())) : Optional.empty();
    Optional<Long> rewoundTo = (flags & REWOUND) != 0 ? Optional.of(in.varint()) : Optional.empty();
    return new HistoryRecord(
        version,
        commit,
        operation,
        new TableVersion.Counts(counts[0], counts[1], counts[2], counts[3], masked),
        totals,
        schemaVersion,
        lives,
        nextSerial,
        new Marks((flags & ONLY_MOVED) != 0, (flags & REDACTED) != 0, missing, rewoundTo),
        (flags & HAS_PAGE) != 0 ? Optional.of(PageRef.read(in, place)) : Optional.empty(),
        Unread.rest(in));
  }

  /** Pages of a table's history, by version. */
  public static final class Format extends RecordFormat<HistoryRecord> {
    public static final Format INSTANCE = new Format();

    private Format() {
      super(2);
    }

    @Override
    protected void write(HistoryRecord value, ByteOut out, PagePlace place) {
      value.write(out, place);
    }

    @Override
    protected HistoryRecord read(ByteIn in, PagePlace place) {
      return HistoryRecord.read(in, place);
    }

    @Override
    protected List<PageRef> followed(HistoryRecord value) {
      return value.page.map(List::of).orElse(List.of());
    }

    @Override
    public HistoryRecord moved(HistoryRecord value, UnaryOperator<PageRef> change) {
      return value.page.map(ref -> value.at(change.apply(ref))).orElse(value);
    }

    @Override
    public long time(HistoryRecord value) {
      return Values.micros(value.commit().time());
    }
  }
}
