package org.ysteron.internal.lake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.ysteron.data.Values;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;

/**
 * An entry of the ledger, as later entries remember it.
 *
 * @param number its number
 * @param time the time of all its commits
 * @param commits who, why; in their order, at least one
 * @param hash the entry's hash, in hexadecimal digits
 * @param page the lake page of that entry; of what hangs on it only the names are followed
 * @param isQuiet whether it made no version of any table
 * @param redacted whether texts of it were redacted
 * @param missing the time of the first entry that is missing before it: from then on times have
 *     expired
 * @param unread what a later program says of it
 */
public record EntryRecord(
    long number,
    Instant time,
    List<CommitStamp> commits,
    String hash,
    PageRef page,
    boolean isQuiet,
    boolean redacted,
    Optional<Instant> missing,
    Unread unread) {
  private static final int QUIET = 1;
  private static final int REDACTED = 4;
  private static final int MISSING = 8;
  private static final int MOST_COMMITS = 1 << 20;

  public EntryRecord {
    commits = List.copyOf(commits);
  }

  /** An entry all of whose neighbours are there. */
  public static EntryRecord of(
      List<CommitStamp> commits, String hash, PageRef page, boolean isQuiet) {
    CommitStamp last = commits.get(commits.size() - 1);
    return new EntryRecord(
        last.entry(),
        last.time(),
        commits,
        hash,
        page,
        isQuiet,
        false,
        Optional.empty(),
        Unread.NOTHING);
  }

  /** The last of its commits. */
  public CommitStamp last() {
    return commits.get(commits.size() - 1);
  }

  /** This record with its lake page elsewhere. */
  public EntryRecord at(PageRef other) {
    return new EntryRecord(number, time, commits, hash, other, isQuiet, redacted, missing, unread);
  }

  /** This record when those before it are gone, the first of which was made at a time. */
  public EntryRecord afterGap(Instant first) {
    return new EntryRecord(
        number, time, commits, hash, page, isQuiet, redacted, Optional.of(first), unread);
  }

  /** This record with texts of its commits redacted. */
  public EntryRecord redacted(List<CommitStamp> less) {
    return new EntryRecord(number, time, less, hash, page, isQuiet, true, missing, unread);
  }

  /** Pages of entries by number. */
  static final class Format extends RecordFormat<EntryRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(5);
    }

    @Override
    protected void write(EntryRecord value, ByteOut out, PagePlace place) {
      out.varint(value.number).signed(Values.micros(value.time));
      out.raw(HexFormat.of().parseHex(value.hash));
      value.page.write(out, place);
      out.u8(
          (value.isQuiet ? QUIET : 0)
              | (value.redacted ? REDACTED : 0)
              | (value.missing.isPresent() ? MISSING : 0));
      value.missing.ifPresent(time -> out.signed(Values.micros(time)));
      out.varint(value.commits.size());
      value.commits.forEach(commit -> writeStamp(commit, out));
      value.unread.write(out);
    }

    @Override
    protected EntryRecord read(ByteIn in, PagePlace place) {
      long number = in.varint();
      Instant time = Values.instant(in.signed());
      String hash = HexFormat.of().formatHex(in.raw(32));
      PageRef page = PageRef.read(in, place);
      int flags = in.u8();
      Optional<Instant> missing =
          (flags & MISSING) != 0 ? Optional.of(Values.instant(in.signed())) : Optional.empty();
      List<CommitStamp> commits = new ArrayList<>();
      for (int left = in.bounded(MOST_COMMITS); left > 0; left--) {
        commits.add(readStamp(in));
      }
      return new EntryRecord(
          number,
          time,
          commits,
          hash,
          page,
          (flags & QUIET) != 0,
          (flags & REDACTED) != 0,
          missing,
          Unread.rest(in));
    }

    @Override
    protected List<PageRef> followed(EntryRecord value) {
      return List.of(value.page);
    }

    @Override
    public EntryRecord moved(EntryRecord value, UnaryOperator<PageRef> change) {
      return value.at(change.apply(value.page));
    }

    @Override
    public long time(EntryRecord value) {
      return Values.micros(value.time);
    }
  }
}
