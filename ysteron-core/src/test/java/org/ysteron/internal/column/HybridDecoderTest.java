package org.ysteron.internal.column;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.Random;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.apache.parquet.bytes.HeapByteBufferAllocator;
import org.apache.parquet.column.values.rle.RunLengthBitPackingHybridEncoder;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;

class HybridDecoderTest {
  private static byte[] encode(int[] values, int width) throws IOException {
    try (RunLengthBitPackingHybridEncoder encoder =
        new RunLengthBitPackingHybridEncoder(
            width, 64, 1 << 16, HeapByteBufferAllocator.getInstance())) {
      for (int value : values) {
        encoder.writeInt(value);
      }
      ByteBuffer bytes = Codecs.heap(encoder.toBytes());
      byte[] copy = new byte[bytes.remaining()];
      bytes.get(copy);
      return copy;
    }
  }

  @Property(tries = 400)
  void itReadsWhatTheLibraryWrites(
      @ForAll long seed, @ForAll @IntRange(min = 1, max = 31) int width) throws IOException {
    Random random = new Random(seed);
    int[] values = new int[1 + random.nextInt(500)];
    int i = 0;
    while (i < values.length) {
      int run = random.nextBoolean() ? 1 : 1 + random.nextInt(40);
      int value = random.nextInt() & (int) ((1L << width) - 1);
      for (int end = Math.min(values.length, i + run); i < end; i++) {
        values[i] = value;
      }
    }
    byte[] bytes = encode(values, width);
    HybridDecoder decoder = new HybridDecoder(bytes, 0, bytes.length, width);
    int[] read = new int[values.length];
    int at = 0;
    while (at < values.length) {
      int take = Math.min(values.length - at, 1 + random.nextInt(70));
      if (decoder.skipRunOf(values[at], take)) {
        for (int k = at; k < at + take; k++) {
          read[k] = values[at];
        }
      } else {
        decoder.read(read, at, take);
      }
      at += take;
    }
    assertThat(read).isEqualTo(values);
  }

  @Property(tries = 400)
  void itReadsSomeOfThem(@ForAll long seed, @ForAll @IntRange(min = 1, max = 31) int width)
      throws IOException {
    Random random = new Random(seed);
    int[] values = new int[1 + random.nextInt(500)];
    for (int i = 0; i < values.length; i++) {
      boolean again = i > 0 && random.nextInt(4) > 0;
      values[i] = again ? values[i - 1] : random.nextInt() & (int) ((1L << width) - 1);
    }
    byte[] bytes = encode(values, width);
    int[] rows = IntStream.range(0, values.length).filter(i -> random.nextInt(5) == 0).toArray();
    HybridDecoder decoder = new HybridDecoder(bytes, 0, bytes.length, width);
    int[] read = new int[values.length];
    int at = 0;
    int next = 0;
    while (at < values.length) {
      int end = Math.min(values.length, at + 1 + random.nextInt(70));
      int to = next;
      while (to < rows.length && rows[to] < end) {
        to++;
      }
      decoder.readAt(read, at, end - at, rows, next, to);
      next = to;
      at = end;
    }
    int[] expected = new int[values.length];
    for (int row : rows) {
      expected[row] = values[row];
    }
    assertThat(read).isEqualTo(expected);
  }

  /** Arrays serve again, so that behind a page there may be anything. */
  @Test
  void valuesBehindTheEndAreDamage() throws IOException {
    byte[] bytes = encode(new int[] {1, 2, 3, 1, 2, 3, 1, 2}, 4);
    byte[] longer = java.util.Arrays.copyOf(bytes, 100);
    int[] read = new int[8];
    new HybridDecoder(longer, 0, bytes.length, 4).read(read, 0, 8);
    assertThat(read).containsExactly(1, 2, 3, 1, 2, 3, 1, 2);
    assertThatThrownBy(() -> new HybridDecoder(longer, 0, bytes.length - 1, 4).read(read, 0, 8))
        .isInstanceOf(DamagedException.class);
    assertThatThrownBy(
            () ->
                new HybridDecoder(longer, 0, bytes.length - 1, 4)
                    .readAt(read, 0, 8, new int[] {7}, 0, 1))
        .isInstanceOf(DamagedException.class);
  }

  @Test
  void aWidthOfZeroIsAllZeros() {
    int[] read = {9, 9, 9};
    new HybridDecoder(new byte[0], 0, 0, 0).read(read, 0, 3);
    assertThat(read).containsOnly(0);
  }

  @Test
  void bytesThatEndEarlyOrMakeNoSenseAreDamage() throws IOException {
    byte[] bytes = encode(new int[] {1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1}, 4);
    int[] read = new int[20];
    assertThatThrownBy(() -> new HybridDecoder(bytes, 0, 1, 4).read(read, 0, 12))
        .isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> new HybridDecoder(new byte[] {0, 0}, 0, 2, 4).read(read, 0, 1))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("empty run");
    byte[] endless = {-1, -1, -1, -1, -1, -1};
    assertThatThrownBy(() -> new HybridDecoder(endless, 0, 6, 4).read(read, 0, 1))
        .isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> new HybridDecoder(bytes, 0, 1, 40))
        .isInstanceOf(DamagedException.class);
  }
}
