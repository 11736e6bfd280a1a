package org.ysteron.internal.lake;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.data.Values;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.tree.PagePlace;

/**
 * Up to where a named reader has read.
 *
 * @param name its name, of which there is one in the lake
 * @param entry the entry whose state was read
 * @param moves how often it was moved since it was made
 * @param versions the tables that are read, and the version of each that was read
 * @param limit how long it holds what it has yet to read
 * @param moved when it was set or moved
 * @param unread what a later program says of it
 */
public record PositionRecord(
    String name,
    long entry,
    long moves,
    Map<UUID, Long> versions,
    Duration limit,
    Instant moved,
    Unread unread) {
  /** So many tables at most. */
  public static final int MOST_TABLES = 1 << 16;

  /** The shortest limit: times are kept in microseconds. */
  public static final Duration SHORTEST = Duration.of(1, ChronoUnit.MICROS);

  /** The longest limit: 36,500 days. */
  public static final Duration LONGEST = Duration.ofDays(36_500);

  public PositionRecord {
    versions = Collections.unmodifiableMap(new TreeMap<>(versions));
  }

  /** One that nobody has moved yet. */
  public static PositionRecord of(
      String name, long entry, Map<UUID, Long> versions, Duration limit, Instant at) {
    return new PositionRecord(name, entry, 0, versions, limit, at, Unread.NOTHING);
  }

  /** This, moved on. */
  public PositionRecord to(long newEntry, Map<UUID, Long> newVersions, Duration lasts, Instant at) {
    return new PositionRecord(name, newEntry, moves + 1, newVersions, lasts, at, unread);
  }

  public byte[] key() {
    return key(name);
  }

  static byte[] key(String name) {
    return name.getBytes(StandardCharsets.UTF_8);
  }

  /** Pages of positions, by name. */
  static final class Format extends RecordFormat<PositionRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(12);
    }

    @Override
    protected void write(PositionRecord value, ByteOut out, PagePlace place) {
      out.text(value.name).varint(value.entry).varint(value.moves).varint(value.versions.size());
      value.versions.keySet().forEach(table -> writeUuid(out, table));
      value.versions.values().forEach(out::varint);
      out.signed(Values.micros(Instant.EPOCH.plus(value.limit)));
      out.signed(Values.micros(value.moved));
      value.unread.write(out);
    }

    @Override
    protected PositionRecord read(ByteIn in, PagePlace place) {
      String name = in.text();
      long entry = in.varint();
      long moves = in.varint();
      List<UUID> tables = new ArrayList<>();
      for (int left = in.bounded(MOST_TABLES); left > 0; left--) {
        tables.add(readUuid(in));
      }
      Map<UUID, Long> versions = new TreeMap<>();
      for (UUID table : tables) {
        versions.put(table, in.varint());
      }
      Duration limit = Duration.between(Instant.EPOCH, Values.instant(in.signed()));
      if (limit.compareTo(SHORTEST) < 0 || limit.compareTo(LONGEST) > 0) {
        throw new DamagedException("The position " + name + " has the limit " + limit + ".");
      }
      Instant moved = Values.instant(in.signed());
      return new PositionRecord(name, entry, moves, versions, limit, moved, Unread.rest(in));
    }

    @Override
    public long time(PositionRecord value) {
      return 0;
    }
  }
}
