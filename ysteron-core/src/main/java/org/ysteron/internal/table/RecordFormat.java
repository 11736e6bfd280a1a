package org.ysteron.internal.table;

import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.Reach;
import org.ysteron.internal.tree.Sections;
import org.ysteron.internal.tree.TreeFormat;
import org.ysteron.report.CommitStamp;

/**
 * Pages of small records, compressed together, each with a time. The summary of a subtree is the
 * first and the last time in it.
 *
 * @param <V> the records
 */
public abstract class RecordFormat<V> implements TreeFormat<V, RecordFormat.Span> {
  private static final int PAGE_BYTES = 4 << 10;
  private static final int RECORDS = 10;
  private static final int SPANS = 11;
  private final int code;

  /** The first and the last time below a node, in microseconds. */
  public record Span(long first, long last) {}

  protected RecordFormat(int code) {
    this.code = code;
  }

  /** Writes a record; page references relative to a page at some place. */
  protected abstract void write(V value, ByteOut out, PagePlace place);

  /** Reads a record, the whole of the bytes; what a later program put at their end is kept. */
  protected abstract V read(ByteIn in, PagePlace place);

  /** The references of a record that are followed, each with what hangs on it that counts. */
  protected List<PageRef> followed(V value) {
    return List.of();
  }

  @Override
  public final List<PageRef> references(V value) {
    return followed(value);
  }

  /** What of their reach counts for the page that holds them. */
  protected Reach passedOn(Reach reach) {
    return reach;
  }

  @Override
  public final Reach below(List<V> values, PageHome holder) {
    Reach reach = Reach.NONE;
    for (V value : values) {
      reach = reach.and(passedOn(Reach.below(holder, followed(value))));
    }
    return reach;
  }

  /** The record's time, 0 when it has none. */
  public abstract long time(V value);

  @Override
  public final int code() {
    return code;
  }

  @Override
  public final int pageBytes() {
    return PAGE_BYTES;
  }

  @Override
  public final void writeValues(List<V> values, Sections.Builder out) {
    ByteOut plain = new ByteOut();
    ByteOut record = new ByteOut();
    for (V value : values) {
      write(value, record.clear(), out.place());
      plain.sized(record);
    }
    out.part(RECORDS).zstd(plain.toByteArray());
  }

  @Override
  public final List<V> readValues(int count, Sections in) {
    ByteIn plain = new ByteIn(in.part(RECORDS).zstd());
    if (count > plain.remaining()) {
      throw new DamagedException("A page has too few bytes for " + count + " records.");
    }
    List<V> values = new ArrayList<>(count);
    for (int i = 0; i < count; i++) {
      values.add(read(plain.slice(plain.bounded(plain.remaining())), in.place()));
    }
    return values;
  }

  public static void writeStamp(CommitStamp stamp, ByteOut out) {
    out.varint(stamp.entry()).varint(stamp.ordinal());
    writeUuid(out, stamp.commitId());
    out.signed(Values.micros(stamp.time()));
    out.text(stamp.author()).text(stamp.program()).text(stamp.note()).text(stamp.statement());
  }

  public static CommitStamp readStamp(ByteIn in) {
    return new CommitStamp(
        in.varint(),
        in.varint(),
        readUuid(in),
        Values.instant(in.signed()),
        in.text(),
        in.text(),
        in.text(),
        in.text());
  }

  public static void writeUuid(ByteOut out, UUID id) {
    out.fixed64(id.getMostSignificantBits()).fixed64(id.getLeastSignificantBits());
  }

  public static UUID readUuid(ByteIn in) {
    return new UUID(in.fixed64(), in.fixed64());
  }

  @Override
  public final Span summarize(List<V> values) {
    return combine(values.stream().map(value -> new Span(time(value), time(value))).toList());
  }

  @Override
  public final Span combine(List<Span> parts) {
    return new Span(
        parts.stream().mapToLong(Span::first).min().orElse(0),
        parts.stream().mapToLong(Span::last).max().orElse(0));
  }

  @Override
  public final void writeSummaries(List<Span> summaries, Sections.Builder out) {
    long[] firsts = summaries.stream().mapToLong(Span::first).toArray();
    long[] lasts = summaries.stream().mapToLong(Span::last).toArray();
    out.part(SPANS).packed(firsts, firsts.length).packed(lasts, lasts.length);
  }

  @Override
  public final List<Span> readSummaries(int count, Sections in) {
    ByteIn part = in.part(SPANS);
    long[] firsts = part.packed(count);
    long[] lasts = part.packed(count);
    List<Span> spans = new ArrayList<>(count);
    for (int i = 0; i < count; i++) {
      spans.add(new Span(firsts[i], lasts[i]));
    }
    return spans;
  }
}
