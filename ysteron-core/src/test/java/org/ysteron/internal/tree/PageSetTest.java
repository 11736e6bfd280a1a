package org.ysteron.internal.tree;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class PageSetTest {
  private static PageRef ref(PageHome home, long offset, byte[] hash) {
    return new PageRef(home, offset, 10, hash, Reach.NONE);
  }

  private static byte[] hash(Random random) {
    byte[] hash = new byte[32];
    random.nextBytes(hash);
    return hash;
  }

  @Test
  void itAnswersAsASetOfReferencesDoes() {
    Random random = new Random(3);
    List<byte[]> hashes = new ArrayList<>();
    List<PageHome> homes = new ArrayList<>();
    for (int i = 0; i < 40; i++) {
      hashes.add(hash(random));
      UUID id = new UUID(0, i % 3);
      UUID table = new UUID(0, i % 5);
      homes.add(
          switch (i % 4) {
            case 0 -> PageHome.entry(i / 8);
            case 1 -> PageHome.lakePages(i / 8, id);
            case 2 -> PageHome.tablePages(table, i / 8, id);
            default -> new PageHome(new PageBatch());
          });
    }
    Set<PageRef> references = new HashSet<>();
    PageSet set = new PageSet();
    int known = 0;
    for (int i = 0; i < 200_000; i++) {
      PageRef ref =
          ref(
              homes.get(random.nextInt(homes.size())),
              random.nextInt(30),
              hashes.get(random.nextInt(hashes.size())));
      boolean isNew = references.add(ref);
      known += isNew ? 0 : 1;
      assertThat(set.add(ref)).as("%s at %d", ref, i).isEqualTo(isNew);
    }
    assertThat(known).isGreaterThan(100_000);
  }

  @Test
  void oneHashAtManyPlacesIsManyPages() {
    byte[] hash = new byte[32];
    PageSet set = new PageSet();
    for (int entry = 0; entry < 1000; entry++) {
      for (int offset = 0; offset < 100; offset++) {
        assertThat(set.add(ref(PageHome.entry(entry), offset, hash))).isTrue();
      }
    }
    assertThat(set.add(ref(PageHome.entry(999), 99, hash))).isFalse();
  }
}
