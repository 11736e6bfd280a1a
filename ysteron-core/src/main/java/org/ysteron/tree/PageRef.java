package org.ysteron.tree;

import java.util.Arrays;
import java.util.HexFormat;
import java.util.UUID;
import org.ysteron.error.DamagedException;

/**
 * Where a page is and the SHA-256 that its bytes must have. Two references are equal when their
 * hashes are: then the pages, and all that is below them, are the same. Immutable.
 */
public final class PageRef {
  private static final int SELF = 0;
  private static final int ENTRY = 1;
  private static final int PAGES = 2;
  private static final int HASH_BYTES = 32;

  /** No page is larger; checked before anything is allocated. */
  public static final int LARGEST_PAGE = 1 << 26;

  private final PageHome home;
  private final long offset;
  private final int length;
  private final byte[] hash;

  PageRef(PageHome home, long offset, int length, byte[] hash) {
    this.home = home;
    this.offset = offset;
    this.length = length;
    this.hash = hash;
  }

  public PageHome home() {
    return home;
  }

  /** The first byte, counted from the start of the home's page region. */
  public long offset() {
    return offset;
  }

  public int length() {
    return length;
  }

  byte[] hash() {
    return hash;
  }

  /** The SHA-256 in hexadecimal digits. */
  public String hashText() {
    return HexFormat.of().formatHex(hash);
  }

  /** Writes this reference into a page whose home is {@code from}. */
  public void write(ByteOut out, PageHome from) {
    if (home == from) {
      out.u8(SELF);
    } else if (home.kind() == PageHome.Kind.ENTRY) {
      out.u8(ENTRY).varint(home.number()).varint(home.regionStart());
    } else {
      out.u8(PAGES).varint(home.number());
      out.fixed64(home.id().getMostSignificantBits());
      out.fixed64(home.id().getLeastSignificantBits()).varint(home.regionStart());
    }
    out.varint(offset).varint(length).raw(hash);
  }

  /** Reads a reference from a page whose home is {@code from}. */
  public static PageRef read(ByteIn in, PageHome from) {
    int kind = in.u8();
    PageHome home;
    if (kind == SELF) {
      home = from;
    } else if (kind == ENTRY) {
      home = PageHome.entry(in.varint(), in.varint());
    } else if (kind == PAGES) {
      long number = in.varint();
      home = PageHome.pages(number, new UUID(in.fixed64(), in.fixed64()), in.varint());
    } else {
      throw new DamagedException("A page reference is of the unknown kind " + kind + ".");
    }
    return new PageRef(home, in.varint(), in.bounded(LARGEST_PAGE), in.raw(HASH_BYTES));
  }

  /** As text for a page of JSON whose home is {@code from}. */
  public String toText(PageHome from) {
    ByteOut out = new ByteOut(64);
    write(out, from);
    return HexFormat.of().formatHex(out.toByteArray());
  }

  /** Reads what {@link #toText} wrote. */
  public static PageRef parse(String text, PageHome from) {
    try {
      return read(new ByteIn(HexFormat.of().parseHex(text)), from);
    } catch (IllegalArgumentException e) {
      throw new DamagedException("A page reference is not in hexadecimal digits.", e);
    }
  }

  @Override
  public boolean equals(Object other) {
    return other instanceof PageRef ref && Arrays.equals(hash, ref.hash);
  }

  @Override
  public int hashCode() {
    return Arrays.hashCode(hash);
  }

  @Override
  public String toString() {
    return "page " + hashText().substring(0, 12);
  }
}
