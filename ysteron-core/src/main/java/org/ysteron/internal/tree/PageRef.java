package org.ysteron.internal.tree;

import java.util.Arrays;
import java.util.HexFormat;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * Where a page is, the SHA-256 that its bytes must have, and how far back the pages lie that hang
 * on it. Two references are equal when they name the same place with the same hash; whether two
 * pages, and all that is below them, hold the same is said by {@link #sameContent}. Immutable.
 */
public final class PageRef {
  private static final int SELF = 0;
  private static final int HASH_BYTES = 32;
  private static final int LEAST_BYTES = HASH_BYTES + 3;

  /** No page is larger; checked before anything is allocated. */
  public static final int LARGEST_PAGE = 1 << 26;

  private final PageHome home;
  private final long offset;
  private final int length;
  private final byte[] hash;
  private final Reach below;

  PageRef(PageHome home, long offset, int length, byte[] hash, Reach below) {
    this.home = home;
    this.offset = offset;
    this.length = length;
    this.hash = hash;
    this.below = below;
  }

  public PageHome home() {
    return home;
  }

  /** The first byte, counted as the home counts. */
  long offset() {
    return offset;
  }

  /** The first byte, counted from the start of the object. */
  public long position() {
    return home.position(offset);
  }

  public int length() {
    return length;
  }

  byte[] hash() {
    return hash;
  }

  /** How far back the pages lie that hang on this one, those in its own object apart. */
  public Reach below() {
    return below;
  }

  /** How far back this page and all that hang on it lie. */
  public Reach reach() {
    return below.and(home.reach());
  }

  /** What this adds to a page in some home that refers to it. */
  Reach reachFrom(PageHome holder) {
    return home.isSameObject(holder) ? below : reach();
  }

  /** This reference with only some of what hangs on it counted. */
  public PageRef following(Reach other) {
    return new PageRef(home, offset, length, hash, other);
  }

  /** The SHA-256 in hexadecimal digits. */
  public String hashText() {
    return HexFormat.of().formatHex(hash);
  }

  /** Whether both pages are in one stored object and the other one begins where this one ends. */
  boolean isJustBefore(PageRef other) {
    return home.openBatch() == null
        && home.isSameObject(other.home)
        && position() + length == other.position();
  }

  /** Whether the pages, and all that is below them, hold the same. */
  public boolean sameContent(PageRef other) {
    return Arrays.equals(hash, other.hash);
  }

  /** The distance or offset by which a page at some place finds this one. */
  private long told(PagePlace from) {
    return home.isSameObject(from.home())
        ? from.home().position(from.offset()) - position()
        : position();
  }

  /** Writes this reference into a page at some place. */
  public void write(ByteOut out, PagePlace from) {
    if (home.isSameObject(from.home())) {
      out.u8(SELF);
    } else {
      home.write(out);
    }
    out.varint(told(from)).varint(length).raw(hash);
    out.varint(Reach.stored(below.entry())).varint(Reach.stored(below.start()));
  }

  /** Reads a reference from a page at some place. */
  public static PageRef read(ByteIn in, PagePlace from) {
    int kind = in.u8();
    PageHome home = kind == SELF ? from.home().whole() : PageHome.read(kind, in);
    long offset = offset(kind == SELF, in.varint(), from);
    int length = in.bounded(LARGEST_PAGE);
    byte[] hash = in.raw(HASH_BYTES);
    Reach below = new Reach(Reach.number(in.varint()), Reach.number(in.varint()));
    return new PageRef(home, offset, length, hash, below);
  }

  private static long offset(boolean self, long told, PagePlace from) {
    long offset = self ? from.home().within(from.offset()) - told : told;
    if (told < 0 || offset < 0) {
      throw new DamagedException("A page reference points out of its object.");
    }
    return offset;
  }

  /** Writes references one behind the other, their homes told once. */
  static void writeAll(PageRef[] refs, ByteOut out, PagePlace from) {
    java.util.List<PageHome> homes = new java.util.ArrayList<>();
    int[] which = new int[refs.length];
    for (int i = 0; i < refs.length; i++) {
      PageHome of = refs[i].home.isSameObject(from.home()) ? from.home() : refs[i].home;
      int at = homes.size() - 1;
      while (at >= 0 && !homes.get(at).isSameObject(of)) {
        at--;
      }
      if (at < 0) {
        homes.add(of);
        at = homes.size() - 1;
      }
      which[i] = at;
    }
    out.varint(homes.size());
    for (PageHome home : homes) {
      if (home.isSameObject(from.home())) {
        out.u8(SELF);
      } else {
        home.write(out);
      }
    }
    long[] entries = new long[refs.length];
    long[] starts = new long[refs.length];
    for (int i = 0; i < refs.length; i++) {
      PageRef ref = refs[i];
      out.varint(which[i]).varint(ref.told(from)).varint(ref.length).raw(ref.hash);
      entries[i] = Reach.stored(ref.below.entry());
      starts[i] = Reach.stored(ref.below.start());
    }
    out.packed(entries, refs.length).packed(starts, refs.length);
  }

  /** Reads what {@link #writeAll} wrote. */
  static PageRef[] readAll(int count, ByteIn in, PagePlace from) {
    if ((long) count * LEAST_BYTES > in.remaining()) {
      throw new DamagedException("A page has too few bytes for " + count + " references.");
    }
    PageHome[] homes = new PageHome[in.bounded(count)];
    boolean[] self = new boolean[homes.length];
    for (int h = 0; h < homes.length; h++) {
      int kind = in.u8();
      self[h] = kind == SELF;
      homes[h] = self[h] ? from.home().whole() : PageHome.read(kind, in);
    }
    int[] which = new int[count];
    long[] offsets = new long[count];
    int[] lengths = new int[count];
    byte[][] hashes = new byte[count][];
    for (int i = 0; i < count; i++) {
      which[i] = in.bounded(homes.length - 1);
      offsets[i] = offset(self[which[i]], in.varint(), from);
      lengths[i] = in.bounded(LARGEST_PAGE);
      hashes[i] = in.raw(HASH_BYTES);
    }
    long[] entries = in.packed(count);
    long[] starts = in.packed(count);
    PageRef[] refs = new PageRef[count];
    for (int i = 0; i < count; i++) {
      Reach below = new Reach(Reach.number(entries[i]), Reach.number(starts[i]));
      refs[i] = new PageRef(homes[which[i]], offsets[i], lengths[i], hashes[i], below);
    }
    return refs;
  }

  /** As text for a page of JSON at some place. */
  public String toText(PagePlace from) {
    ByteOut out = new ByteOut(96);
    write(out, from);
    return HexFormat.of().formatHex(out.toByteArray());
  }

  /** Reads what {@link #toText} wrote. */
  public static PageRef parse(String text, PagePlace from) {
    try {
      return read(new ByteIn(HexFormat.of().parseHex(text)), from);
    } catch (IllegalArgumentException e) {
      throw new DamagedException("A page reference is not in hexadecimal digits.", e);
    }
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof PageRef ref
        && Arrays.equals(hash, ref.hash)
        && home.isSameObject(ref.home)
        && position() == ref.position();
  }

  @Override
  public int hashCode() {
    return Arrays.hashCode(hash);
  }

  @Override
  public String toString() {
    return "page " + hashText().substring(0, 12) + " in " + home;
  }
}
