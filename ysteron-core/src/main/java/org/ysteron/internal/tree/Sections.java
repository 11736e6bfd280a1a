package org.ysteron.internal.tree;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

/**
 * The numbered parts of a page, each of which can be decoded without the others: a count, then
 * number and length of each, then their bytes.
 */
public final class Sections {
  private static final int MOST = 100_000;
  private static final PagePlace NOWHERE = new PagePlace(PageHome.entry(0), 0);

  private final Map<Integer, ByteIn> parts;
  private final PagePlace place;

  private Sections(Map<Integer, ByteIn> parts, PagePlace place) {
    this.parts = parts;
    this.place = place;
  }

  static Sections read(ByteIn in, PagePlace place) {
    int count = in.bounded(Math.min(MOST, in.remaining() / 2)); // two numbers each
    int[] numbers = new int[count];
    int[] lengths = new int[count];
    for (int i = 0; i < count; i++) {
      numbers[i] = in.bounded(Integer.MAX_VALUE);
      lengths[i] = in.bounded(PageRef.LARGEST_PAGE);
    }
    Map<Integer, ByteIn> parts = new LinkedHashMap<>();
    for (int i = 0; i < count; i++) {
      parts.put(numbers[i], in.slice(lengths[i]));
    }
    return new Sections(parts, place);
  }

  /** Sections that are no page's, and hold no references. */
  public static byte[] alone(Consumer<Builder> writer) {
    Builder builder = new Builder(NOWHERE);
    writer.accept(builder);
    ByteOut out = new ByteOut();
    builder.write(out);
    return out.toByteArray();
  }

  /** Reads sections that are no page's, to their end. */
  public static Sections alone(ByteIn in) {
    return read(in, NOWHERE);
  }

  /** Where the page stands, which its references may be relative to. */
  public PagePlace place() {
    return place;
  }

  /** Decodes some of the parts; whatever goes wrong in that is damage of the page. */
  public <T> T guarded(Supplier<T> decoding) {
    return place.guarded(decoding);
  }

  /** What the failure of decoding some of the parts is. */
  public RuntimeException unreadable(RuntimeException cause) {
    return place.unreadable(cause);
  }

  public boolean has(int number) {
    return parts.containsKey(number);
  }

  /** The bytes of a part, from its start. */
  public ByteIn part(int number) {
    ByteIn part = parts.get(number);
    if (part == null) {
      throw new DamagedException("A page lacks its section " + number + ".");
    }
    return part.copy();
  }

  /** Collects parts of a page. */
  public static final class Builder {
    private final Map<Integer, ByteOut> parts = new TreeMap<>();
    private final PagePlace place;

    Builder(PagePlace place) {
      this.place = place;
    }

    public PagePlace place() {
      return place;
    }

    /** The part of that number, empty at first. */
    public ByteOut part(int number) {
      return parts.computeIfAbsent(number, n -> new ByteOut());
    }

    void write(ByteOut out) {
      out.varint(parts.size());
      parts.forEach((number, part) -> out.varint(number).varint(part.size()));
      parts.values().forEach(part -> out.raw(part.toByteArray()));
    }
  }
}
