package org.ysteron.internal.file;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.apache.parquet.ParquetReadOptions;
import org.apache.parquet.PlainReadOptions;
import org.apache.parquet.filter2.compat.FilterCompat;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.column.Codecs;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ordered;

class StatisticRangesTest {
  private static ByteBuffer utf8(String text) {
    return ByteBuffer.wrap(text.getBytes(StandardCharsets.UTF_8));
  }

  @Property(tries = 500)
  void cutBoundsStillHoldTheValue(@ForAll String text) {
    String value = text.replaceAll("[\ud800-\udfff]", "x");
    byte[] bytes = value.getBytes(StandardCharsets.UTF_8);
    ColumnRange range = StatisticRanges.of(Types.text(), 0, utf8(value), utf8(value), false);
    assertThat(Ordered.compare(range.minBytes(), bytes)).isLessThanOrEqualTo(0);
    assertThat(range.minBytes().length).isLessThanOrEqualTo(24);
    if (range.maxBytes() != null) {
      assertThat(Ordered.compare(range.maxBytes(), bytes)).isGreaterThanOrEqualTo(0);
      assertThat(range.maxBytes().length).isLessThanOrEqualTo(25);
    }
  }

  @Test
  void aCutUpperBoundIsRaisedByCharacter() {
    String value = "x".repeat(23) + "é and more";
    ColumnRange range = StatisticRanges.of(Types.text(), 0, utf8(value), utf8(value), false);
    assertThat(new String(range.minBytes(), StandardCharsets.UTF_8)).isEqualTo("x".repeat(23));
    assertThat(new String(range.maxBytes(), StandardCharsets.UTF_8))
        .isEqualTo("x".repeat(22) + "y");
    String last = "\udbff\udfff".repeat(7);
    assertThat(StatisticRanges.of(Types.text(), 0, utf8(last), utf8(last), false).maxBytes())
        .isNull();
    String beforeSurrogates = "\ud7ff".repeat(9);
    ColumnRange skipping =
        StatisticRanges.of(Types.text(), 0, utf8(beforeSurrogates), utf8(beforeSurrogates), false);
    assertThat(new String(skipping.maxBytes(), StandardCharsets.UTF_8)).endsWith("\ue000");
  }

  @Test
  void possibleNansReachToTheTop() {
    ByteBuffer one = ByteBuffer.allocate(8).order(ByteOrder.LITTLE_ENDIAN).putDouble(0, 1.5);
    ColumnRange sure = StatisticRanges.of(Types.DOUBLE, 0, one, one, false);
    ColumnRange unsure = StatisticRanges.of(Types.DOUBLE, 0, one, one, true);
    assertThat(Ordered.toDouble(sure.max())).isEqualTo(1.5);
    assertThat(Ordered.toDouble(unsure.max())).isNaN();
    assertThat(Ordered.toDouble(unsure.min())).isEqualTo(1.5);
  }

  @Property(tries = 300)
  void orderedDoublesOrderAsDoubles(@ForAll double a, @ForAll double b) {
    int expected = a == b ? 0 : Double.compare(a, b);
    assertThat(Integer.signum(Long.compare(Ordered.ofDouble(a), Ordered.ofDouble(b))))
        .isEqualTo(Integer.signum(expected));
    assertThat(Ordered.toDouble(Ordered.ofDouble(a))).isEqualTo(a == 0 ? 0.0 : a);
  }

  @Test
  void theFlagsOfTheReadOptionsAreInTheirPlaces() {
    ParquetReadOptions options = PlainReadOptions.of(Codecs.SHARED);
    assertThat(options.useColumnIndexFilter()).isTrue();
    assertThat(options.useSignedStringMinMax()).isFalse();
    assertThat(options.useStatsFilter()).isFalse();
    assertThat(options.useDictionaryFilter()).isFalse();
    assertThat(options.useRecordFilter()).isFalse();
    assertThat(options.usePageChecksumVerification()).isFalse();
    assertThat(options.useBloomFilter()).isFalse();
    assertThat(options.useOffHeapDecryptBuffer()).isFalse();
    assertThat(options.useHadoopVectoredIo()).isFalse();
    assertThat(options.getRecordFilter()).isEqualTo(FilterCompat.NOOP);
    assertThat(options.getCodecFactory()).isSameAs(Codecs.SHARED);
  }

  @Property(tries = 50)
  void everyChangedByteChangesItsBlocksChecksum(@ForAll long seed) {
    java.util.Random random = new java.util.Random(seed);
    byte[] content = new byte[1 + random.nextInt(3 * BlockChecksums.BLOCK)];
    random.nextBytes(content);
    BlockChecksums.Builder builder = new BlockChecksums.Builder();
    int at = 0;
    while (at < content.length) {
      int take = Math.min(content.length - at, 1 + random.nextInt(100_000));
      builder.update(content, at, take);
      at += take;
    }
    BlockChecksums sums = BlockChecksums.parse(builder.build().toText(), content.length);
    assertThat(sums.coveredBytes()).isEqualTo(content.length);
    int changed = random.nextInt(content.length);
    long blocks = (content.length + BlockChecksums.BLOCK - 1L) / BlockChecksums.BLOCK;
    content[changed] ^= 4;
    for (long block = 0; block < blocks; block++) {
      ByteBuffer part =
          ByteBuffer.wrap(content, (int) block * BlockChecksums.BLOCK, sums.length(block));
      assertThat(sums.matches(block, part)).isEqualTo(changed / BlockChecksums.BLOCK != block);
    }
  }

  @Test
  void checksumsThatDoNotFitTheirFileAreDamage() {
    String text = new BlockChecksums.Builder().build().toText();
    assertThatThrownBy(() -> BlockChecksums.parse(text, 100)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> BlockChecksums.parse(null, 0)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> BlockChecksums.parse("md5:", 0)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> BlockChecksums.parse("crc32c/65536:%%", 0))
        .isInstanceOf(DamagedException.class);
  }
}
