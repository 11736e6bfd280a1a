package org.ysteron.internal.tree;

import java.util.Objects;
import java.util.UUID;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * The object that holds some pages. While a commit is being made its homes are open: their pages
 * are in memory, in a batch each. The homes of one commit may be joined, when their pages will lie
 * one behind the other in its entry; at the end they are settled. A reference counts its offset as
 * its home does: from the first byte of the object, or of the batch. Thread-safe once it is
 * settled.
 */
public final class PageHome {

  /** What kind of object holds pages. */
  public enum Kind {
    /** An entry of the ledger, named by its number. */
    ENTRY(1),
    /** An object of the lake's own pages. */
    LAKE_PAGES(2),
    /** An object of a table's pages. */
    TABLE_PAGES(3);

    private final int code;

    Kind(int code) {
      this.code = code;
    }

    /** As stored. */
    int code() {
      return code;
    }
  }

  private static final UUID NONE = new UUID(0, 0);

  /** Where the lake's own objects of pages are. */
  public static final String LAKE_DIRECTORY = "pages/lake";

  /**
   * The object.
   *
   * @param number of the entry; else the start in the name
   * @param table the table whose pages they are; zero for none
   * @param id the id in the name; zero for an entry
   */
  record Place(Kind kind, long number, UUID table, UUID id) {}

  private volatile PageBatch batch;
  private volatile Place place;
  private volatile PageHome joined;
  private volatile long shift;

  PageHome(PageBatch batch) {
    this.batch = batch;
  }

  private PageHome(Place place) {
    this.batch = null;
    this.place = place;
  }

  /** An entry of the ledger. */
  public static PageHome entry(long number) {
    return new PageHome(new Place(Kind.ENTRY, number, NONE, NONE));
  }

  /** An object of the lake's own pages. */
  public static PageHome lakePages(long start, UUID id) {
    return new PageHome(new Place(Kind.LAKE_PAGES, start, NONE, id));
  }

  /** An object of a table's pages. */
  public static PageHome tablePages(UUID table, long start, UUID id) {
    return new PageHome(new Place(Kind.TABLE_PAGES, start, table, id));
  }

  /** Says that the pages lie in another home from some byte on. */
  void join(PageHome other, long from) {
    joined = other;
    shift = from;
  }

  /** Says what object the pages are in, from which byte on; they are in no other home then. */
  void settle(PageHome object, long from) {
    joined = null;
    place = object.place;
    shift = from;
  }

  /** Lets go of the pages in memory, once they are in the object. */
  public void release() {
    batch = null;
  }

  private PageHome root() {
    PageHome other = joined;
    return other == null ? this : other;
  }

  /** The home that counts for the whole object: that which this one has joined, or this. */
  PageHome whole() {
    return root();
  }

  /** An offset as {@link #whole} counts. */
  long within(long offset) {
    return joined == null ? offset : shift + offset;
  }

  /** The place of an offset in the object, or in the home that this one has joined. */
  long position(long offset) {
    PageHome other = joined;
    return shift + offset + (other == null ? 0 : other.shift);
  }

  /** Whether pages of both are in one object. */
  @SuppressWarnings("ReferenceEquality") // an open home is equal to nothing but itself
  boolean isSameObject(PageHome other) {
    PageHome mine = root();
    PageHome theirs = other.root();
    return mine == theirs || (mine.place != null && mine.place.equals(theirs.place));
  }

  /** The batch of an open home, else null. */
  PageBatch openBatch() {
    return root().place == null ? batch : null;
  }

  private Place settled() {
    Place object = root().place;
    if (object == null) {
      throw new IllegalStateException("the pages of an unfinished commit have no object yet");
    }
    return object;
  }

  Place place() {
    return settled();
  }

  /** Whether it is known what object the pages are in. */
  public boolean isSettled() {
    return root().place != null;
  }

  public Kind kind() {
    return settled().kind;
  }

  /** The table whose pages they are; zero for none. */
  public UUID table() {
    return settled().table;
  }

  /** The number of an entry, or the start of another object. */
  public long number() {
    return settled().number;
  }

  /** How far back this object lies; nothing is said of one that is still open. */
  Reach reach() {
    Place object = root().place;
    if (object == null) {
      return Reach.NONE;
    }
    return object.kind == Kind.ENTRY
        ? new Reach(object.number, Long.MAX_VALUE)
        : new Reach(Long.MAX_VALUE, object.number);
  }

  /** The object's name in the store. */
  public String objectName() {
    Place object = settled();
    return switch (object.kind) {
      case ENTRY -> entryName(object.number);
      case LAKE_PAGES -> LAKE_DIRECTORY + "/" + Numbering.flat(object.number) + "-" + object.id;
      case TABLE_PAGES ->
          directory(object.table) + "/" + Numbering.flat(object.number) + "-" + object.id;
    };
  }

  /** Where a table's objects of pages are. */
  public static String directory(UUID table) {
    return "pages/" + table;
  }

  /** {@code ledger/000/000/042}. */
  public static String entryName(long number) {
    return "ledger/" + Numbering.path(number);
  }

  /** Writes which object this is, for one who reads it in an object of its own. */
  void write(ByteOut out) {
    Place object = settled();
    out.u8(object.kind.code);
    if (object.kind == Kind.TABLE_PAGES) {
      uuid(out, object.table);
    }
    out.varint(object.number);
    if (object.kind != Kind.ENTRY) {
      uuid(out, object.id);
    }
  }

  /** Reads what {@link #write} wrote, behind its first byte. */
  static PageHome read(int kind, ByteIn in) {
    return switch (kind) {
      case 1 -> entry(number(in));
      case 2 -> lakePages(number(in), uuid(in));
      case 3 -> {
        UUID table = uuid(in);
        yield tablePages(table, number(in), uuid(in));
      }
      default ->
          throw new org.ysteron.error.DamagedException(
              "A page reference is of the unknown kind " + kind + ".");
    };
  }

  private static long number(ByteIn in) {
    long number = in.varint();
    if (number < 0) {
      throw new org.ysteron.error.DamagedException("A page reference names no entry.");
    }
    return number;
  }

  private static void uuid(ByteOut out, UUID id) {
    out.fixed64(id.getMostSignificantBits()).fixed64(id.getLeastSignificantBits());
  }

  private static UUID uuid(ByteIn in) {
    return new UUID(in.fixed64(), in.fixed64());
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof PageHome home && isSameObject(home);
  }

  @Override
  public int hashCode() {
    return Objects.hashCode(root().place);
  }

  @Override
  public String toString() {
    return root().place == null ? "an unfinished commit" : objectName();
  }
}
