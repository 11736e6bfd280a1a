package org.ysteron.internal.changes;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.roaringbitmap.RoaringBitmap;
import org.roaringbitmap.longlong.Roaring64Bitmap;

class SerialIndexTest {

  @ParameterizedTest
  @ValueSource(longs = {1, 2, 3, 4, 5})
  void rowsAreFoundWhereTheyAre(long seed) {
    Random random = new Random(seed);
    for (int round = 0; round < 50; round++) {
      List<Long> serials = new ArrayList<>();
      long next = random.nextInt(1000);
      for (int i = random.nextInt(300); i > 0; i--) {
        next += random.nextInt(4) == 0 ? 1 + random.nextInt(50) : 1;
        serials.add(next);
      }
      if (round % 2 == 0) {
        Collections.shuffle(serials, random);
      }
      SerialIndex.Builder builder = new SerialIndex.Builder();
      Roaring64Bitmap wanted = new Roaring64Bitmap();
      RoaringBitmap expected = new RoaringBitmap();
      int position = 0;
      for (long serial : serials) {
        position += random.nextInt(5) == 0 ? 3 : 1; // some rows in between do not count
        builder.add(serial, position);
        if (random.nextInt(3) == 0) {
          wanted.addLong(serial);
          expected.add(position);
        }
      }
      wanted.addLong(next + 1);
      wanted.addLong(0);
      assertThat(builder.build().orElseThrow().positions(wanted)).isEqualTo(expected);
    }
  }

  @Test
  void whatIsTooMuchForMemoryIsNotKept() {
    SerialIndex.Builder builder = new SerialIndex.Builder();
    for (int i = 0; i <= 1 << 20; i++) {
      builder.add(2L * i, i);
    }
    assertThat(builder.build()).isEmpty();
    assertThat(new SerialIndex.Builder().build().orElseThrow().positions(new Roaring64Bitmap()))
        .isEqualTo(new RoaringBitmap());
  }
}
