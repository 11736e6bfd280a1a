package org.ysteron.internal.lake;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Collections;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import java.util.regex.Pattern;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PagePlace;

/**
 * What keeps versions from expiry.
 *
 * @param kind what kind of hold: 1 a bookmark, 2 a draft, 3 a reader's position, 4 a load
 * @param name its name, of which there is one in the lake for each kind
 * @param holdsEntry whether the lake as of the entry is kept, too, not only versions of tables
 * @param entry the entry that was meant, or in which the newest of the versions was made
 * @param made when it was made or moved
 * @param ends when it ends; empty for never
 * @param versions of tables
 * @param unread what a later program says of it
 */
public record HoldRecord(
    int kind,
    String name,
    boolean holdsEntry,
    long entry,
    Instant made,
    Optional<Instant> ends,
    Map<UUID, Long> versions,
    Unread unread) {
  private static final int HOLDS_ENTRY = 1;
  private static final int MOST_VERSIONS = 1 << 20;

  public HoldRecord {
    versions = Collections.unmodifiableMap(new TreeMap<>(versions));
  }

  /** A kind of hold: a named version or state. Other kinds hold as well, whoever made them. */
  public static final int BOOKMARK = 1;

  /** A kind of hold: what a reader with a position still has to read. */
  public static final int POSITION = 3;

  private static final int LONGEST = 128;
  private static final Pattern NAME = Pattern.compile("[\\p{L}][\\p{L}\\p{N}._-]*");

  /**
   * Checks the name of a hold.
   *
   * @param what what is named, as "bookmark"
   * @throws InvalidInputException when it cannot be one
   */
  public static void checkName(String name, String what) {
    Limits.text(name, LONGEST, "name of the " + what);
    if (!NAME.matcher(name).matches()) {
      throw new InvalidInputException(
          "\"%s\" is not a %s name: a name starts with a letter and contains only letters, digits, '.', '-' and '_'."
              .formatted(name, what));
    }
  }

  /** A named version of a table. */
  public static HoldRecord bookmark(String name, UUID table, long version, long entry, Instant at) {
    return new HoldRecord(
        BOOKMARK, name, false, entry, at, Optional.empty(), Map.of(table, version), Unread.NOTHING);
  }

  /** A named state of the lake. */
  public static HoldRecord bookmark(String name, long entry, Map<UUID, Long> versions, Instant at) {
    return new HoldRecord(
        BOOKMARK, name, true, entry, at, Optional.empty(), versions, Unread.NOTHING);
  }

  /** What a position has yet to read, from when it was set or moved. */
  public static HoldRecord position(PositionRecord position) {
    return new HoldRecord(
        POSITION,
        position.name(),
        false,
        position.entry(),
        position.moved(),
        Optional.of(position.moved().plus(position.limit())),
        position.versions(),
        Unread.NOTHING);
  }

  /** Its name, behind what it is unless it is a bookmark. */
  public String label() {
    return switch (kind) {
      case BOOKMARK -> name;
      case POSITION -> "position " + name;
      default -> "hold " + name;
    };
  }

  /** This hold without a table; none when it then holds nothing. */
  public Edit<HoldRecord> without(UUID table) {
    Map<UUID, Long> others = new TreeMap<>(versions);
    others.remove(table);
    return others.isEmpty() && !holdsEntry
        ? Edit.remove(key())
        : Edit.put(
            key(), new HoldRecord(kind, name, holdsEntry, entry, made, ends, others, unread));
  }

  /** Whether it still holds at a time. */
  public boolean lastsAt(Instant time) {
    return ends.isEmpty() || ends.get().isAfter(time);
  }

  /** The key of a hold. */
  public static byte[] key(int kind, String name) {
    byte[] text = name.getBytes(StandardCharsets.UTF_8);
    return ByteBuffer.allocate(1 + text.length).put((byte) kind).put(text).array();
  }

  public byte[] key() {
    return key(kind, name);
  }

  /** Pages of holds, by kind and name. */
  static final class Format extends RecordFormat<HoldRecord> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(10);
    }

    @Override
    protected void write(HoldRecord value, ByteOut out, PagePlace place) {
      out.u8(value.kind).text(value.name).u8(value.holdsEntry ? HOLDS_ENTRY : 0);
      out.varint(value.entry).signed(Values.micros(value.made));
      out.signed(value.ends.map(Values::micros).orElse(0L));
      out.varint(value.versions.size());
      value.versions.forEach(
          (table, version) -> {
            writeUuid(out, table);
            out.varint(version);
          });
      value.unread.write(out);
    }

    @Override
    protected HoldRecord read(ByteIn in, PagePlace place) {
      int kind = in.u8();
      String name = in.text();
      boolean holdsEntry = (in.u8() & HOLDS_ENTRY) != 0;
      long entry = in.varint();
      Instant made = Values.instant(in.signed());
      long ends = in.signed();
      Map<UUID, Long> versions = new TreeMap<>();
      for (int left = in.bounded(MOST_VERSIONS); left > 0; left--) {
        UUID table = readUuid(in);
        versions.put(table, in.varint());
      }
      return new HoldRecord(
          kind,
          name,
          holdsEntry,
          entry,
          made,
          ends == 0 ? Optional.empty() : Optional.of(Values.instant(ends)),
          versions,
          Unread.rest(in));
    }

    @Override
    public long time(HoldRecord value) {
      return 0;
    }
  }
}
