package org.ysteron.internal.keys;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Numbers that come more than once, whatever their bits are. */
class RepeatedHashesTest {
  @ParameterizedTest
  @ValueSource(ints = {0, 1, 2, 17, 4_095, 4_096, 100_000})
  void thoseThatRepeatAreFoundAndNoOthers(int count) {
    Random random = new Random(count);
    for (long mask : new long[] {-1, 0xff, 0xffffL << 48, 0}) {
      RepeatedHashes hashes = new RepeatedHashes(count / 2);
      Map<Long, Integer> times = new TreeMap<>();
      for (int i = 0; i < count; i++) {
        long hash = random.nextInt(50) == 0 ? i / 7 : random.nextLong() & mask;
        hashes.add(hash);
        times.merge(hash, 1, Integer::sum);
      }
      times.values().removeIf(n -> n == 1);
      assertThat(hashes.repeated())
          .containsExactly(times.keySet().stream().mapToLong(Long::longValue).toArray());
    }
  }
}
