package org.ysteron.internal.file;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.apache.parquet.column.values.bloomfilter.BlockSplitBloomFilter;
import org.apache.parquet.column.values.bloomfilter.BloomFilter;
import org.apache.parquet.io.api.Binary;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.data.VectorBuilder;

class KeyFilterTest {
  @ParameterizedTest
  @ValueSource(ints = {0, 1, 2, 20, 500, 20_000, 300_000, 2_000_000})
  void aFoldedFilterHoldsTheSameValuesInLittleRoom(int values) {
    BloomFilter full = new BlockSplitBloomFilter((1 << 20));
    for (long value = 0; value < values; value++) {
      full.insertHash(full.hash(value * 7));
      full.insertHash(full.hash(value * 7)); // which counts once
    }
    BloomFilter folded = KeyFilter.folded(full);
    BloomFilter direct = new BlockSplitBloomFilter(folded.getBitsetSize());
    int wrong = 0;
    for (long value = 0; value < values; value++) {
      assertThat(folded.findHash(folded.hash(value * 7))).isTrue();
      direct.insertHash(direct.hash(value * 7));
    }
    assertThat(folded).isEqualTo(direct);
    for (long value = 0; value < 100_000; value++) {
      wrong += folded.findHash(folded.hash(value * 7 + 3)) ? 1 : 0;
    }
    if (values < 500_000) { // more than that is more than the largest filter is for
      assertThat(wrong).isLessThan(1300);
    }
    assertThat(folded.getBitsetSize()).isLessThanOrEqualTo(Math.max(32, values * 4));
  }

  private static Optional<BloomFilter> filter(Type type, List<?> values) {
    KeyFilter filter = new KeyFilter();
    VectorBuilder builder = new VectorBuilder(type);
    for (int i = 0; i < values.size(); i++) {
      builder.add(Values.accept(values.get(i), type));
      if (i % 700 == 699) {
        filter.add(builder.build());
      }
    }
    filter.add(builder.build());
    return filter.end();
  }

  @ParameterizedTest
  @ValueSource(ints = {2, 5, 1023, 1024, 1025, 5000, 60_000})
  void valuesThatAscendNeedNoFilterAndOthersAreAllInIt(int count) {
    List<Long> numbers = new ArrayList<>();
    for (long i = 0; i < count; i++) {
      numbers.add(3 * i);
    }
    assertThat(filter(Types.BIGINT, numbers)).isEmpty();
    for (int at : new int[] {1, count / 2, count - 1}) {
      List<Long> broken = new ArrayList<>(numbers);
      broken.set(at, -5L);
      BloomFilter filter = filter(Types.BIGINT, broken).orElseThrow();
      assertThat(broken).allMatch(number -> filter.findHash(filter.hash((long) number)));
      assertThat(filter.findHash(filter.hash(-1L)) && filter.findHash(filter.hash(-2L))).isFalse();
    }
  }

  @Test
  void valuesOfEveryTypeAreHashedAsTheFormatHasIt() {
    BloomFilter texts = filter(Types.text(), List.of("b", "a", "ä")).orElseThrow();
    assertThat(texts.findHash(texts.hash(Binary.fromString("ä")))).isTrue();
    BloomFilter ints = filter(Types.INTEGER, List.of(2, 1)).orElseThrow();
    assertThat(ints.findHash(ints.hash(1))).isTrue();
    BloomFilter doubles = filter(Types.DOUBLE, List.of(1.5, 2.5)).orElseThrow();
    assertThat(doubles.findHash(doubles.hash(2.5))).isTrue();
    BloomFilter reals = filter(Types.REAL, List.of(1.5f)).orElseThrow();
    assertThat(reals.findHash(reals.hash(1.5f))).isTrue();
    List<BigDecimal> wide = List.of(new BigDecimal("7.00"), new BigDecimal("-5.25"));
    BloomFilter decimals = filter(Types.decimal(30, 2), wide).orElseThrow();
    byte[] stored = new byte[16];
    Arrays.fill(stored, (byte) 0xff);
    System.arraycopy(BigInteger.valueOf(-525).toByteArray(), 0, stored, 14, 2);
    assertThat(decimals.findHash(decimals.hash(Binary.fromConstantByteArray(stored)))).isTrue();
    assertThat(filter(Types.BOOLEAN, List.of(true, false))).isEmpty();
    assertThat(filter(Types.text(), List.of("a", "a", "b"))).isEmpty();
    assertThat(filter(Types.BIGINT, List.of())).isEmpty();
  }
}
