package org.ysteron.internal.lake;

import java.nio.ByteBuffer;
import java.time.Instant;
import java.util.Collections;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import org.ysteron.data.Values;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.report.CommitStamp;

/**
 * An erasure of rows that is under way. What the rows are it does not say: only who knows can tell
 * by the digest that it is this one.
 *
 * @param id its id
 * @param table the table
 * @param salt what was put before the condition, in hexadecimal digits
 * @param digest SHA-256 of both, in hexadecimal digits; empty when it is not needed any more
 * @param opened the entry that opened it
 * @param before the hash of the entry before that, in hexadecimal digits; empty where an earlier
 *     program opened it
 * @param time when
 * @param author who
 * @param cleared the entry that took the rows out of all versions; 0 before
 * @param renewed the tables of which no page from before that may stay
 * @param counts what was done
 * @param unread what a later program says of it
 */
public record ErasureRecord(
    UUID id,
    UUID table,
    String salt,
    String digest,
    long opened,
    String before,
    Instant time,
    String author,
    long cleared,
    Set<UUID> renewed,
    Counts counts,
    Unread unread) {
  private static final int MOST_TABLES = 1 << 20;

  public ErasureRecord {
    renewed = Collections.unmodifiableSet(new TreeSet<>(renewed));
  }

  /**
   * What was done.
   *
   * @param files data files that were written anew or taken out
   * @param rows rows of them that were erased and counted in some version
   * @param versions versions of the table that were changed
   * @param texts texts that were redacted
   * @param bookmarks the names of those that keep a version with such rows
   */
  public record Counts(long files, long rows, long versions, long texts, Set<String> bookmarks) {
    static final Counts NONE = new Counts(0, 0, 0, 0, Set.of());

    public Counts {
      bookmarks = Collections.unmodifiableSet(new TreeSet<>(bookmarks));
    }

    Counts and(Counts more) {
      Set<String> all = new TreeSet<>(bookmarks);
      all.addAll(more.bookmarks);
      return new Counts(
          files + more.files, rows + more.rows, versions + more.versions, texts + more.texts, all);
    }
  }

  /** One that an entry begins, which stands on one with a hash. */
  public static ErasureRecord of(
      UUID id, UUID table, String salt, String digest, CommitStamp by, String before) {
    return new ErasureRecord(
        id,
        table,
        salt,
        digest,
        by.entry(),
        before,
        by.time(),
        by.author(),
        0,
        Set.of(),
        Counts.NONE,
        Unread.NOTHING);
  }

  /** When an entry has taken rows out, perhaps not the first. */
  public ErasureRecord clearedBy(long entry, Set<UUID> tables, Counts more) {
    Set<UUID> all = new TreeSet<>(renewed);
    all.addAll(tables);
    return new ErasureRecord(
        id,
        table,
        salt,
        digest,
        opened,
        before,
        time,
        author,
        entry,
        all,
        counts.and(more),
        unread);
  }

  /** When the condition is not needed any more. */
  public ErasureRecord withoutDigest() {
    return new ErasureRecord(
        id, table, "", "", opened, before, time, author, cleared, renewed, counts, unread);
  }

  /** Whether all is done but for the last trace of this itself. */
  public boolean isEnding() {
    return digest.isEmpty();
  }

  public byte[] key() {
    return ByteBuffer.allocate(16)
        .putLong(id.getMostSignificantBits())
        .putLong(id.getLeastSignificantBits())
        .array();
  }

  /** Pages of erasures, by id. */
  static final class Format extends RecordFormat<ErasureRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(13);
    }

    @Override
    protected void write(ErasureRecord value, ByteOut out, PagePlace place) {
      writeUuid(out, value.id);
      writeUuid(out, value.table);
      out.text(value.salt).text(value.digest).varint(value.opened);
      out.signed(Values.micros(value.time));
      out.text(value.author).varint(value.cleared).varint(value.renewed.size());
      value.renewed.forEach(table -> writeUuid(out, table));
      out.varint(value.counts.files).varint(value.counts.rows);
      out.varint(value.counts.versions).varint(value.counts.texts);
      out.text(value.before).varint(value.counts.bookmarks.size());
      value.counts.bookmarks.forEach(out::text);
      value.unread.write(out);
    }

    @Override
    protected ErasureRecord read(ByteIn in, PagePlace place) {
      UUID id = readUuid(in);
      UUID table = readUuid(in);
      String salt = in.text();
      String digest = in.text();
      long opened = in.varint();
      Instant time = Values.instant(in.signed());
      String author = in.text();
      long cleared = in.varint();
      Set<UUID> renewed = new TreeSet<>();
      for (int left = in.bounded(MOST_TABLES); left > 0; left--) {
        renewed.add(readUuid(in));
      }
      long files = in.varint();
      long rows = in.varint();
      long versions = in.varint();
      long texts = in.varint();
      String before = in.remaining() == 0 ? "" : in.text();
      Set<String> bookmarks = new TreeSet<>();
      for (int left = in.remaining() == 0 ? 0 : in.bounded(MOST_TABLES); left > 0; left--) {
        bookmarks.add(in.text());
      }
      return new ErasureRecord(
          id,
          table,
          salt,
          digest,
          opened,
          before,
          time,
          author,
          cleared,
          renewed,
          new Counts(files, rows, versions, texts, bookmarks),
          Unread.rest(in));
    }

    @Override
    public long time(ErasureRecord value) {
      return Values.micros(value.time);
    }
  }
}
