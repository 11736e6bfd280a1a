package org.ysteron.internal.upkeep;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.internal.upkeep.PackPolicy.Packable;

class PackPolicyTest {
  private static final long UNIT = 1 << 20;
  private static final long TARGET = 1000 * UNIT;

  private static Packable file(double units) {
    long bytes = (long) (units * UNIT);
    return new Packable(bytes, bytes / 100, bytes / 100);
  }

  private static List<Packable> files(int count, double units) {
    return new ArrayList<>(IntStream.range(0, count).mapToObj(i -> file(units)).toList());
  }

  /** A partition that is packed now and then, with what that costs. */
  private static final class Table {
    final List<Packable> files = new ArrayList<>();
    final PackPolicy policy = new PackPolicy(TARGET, false);
    long appended;
    long written;

    void append(Packable file) {
      files.add(file);
      appended += file.bytes();
    }

    void pack() {
      List<List<Integer>> groups = policy.groups(files);
      List<Packable> next = new ArrayList<>(files);
      for (List<Integer> group : groups) {
        long live = group.stream().mapToLong(i -> files.get(i).live()).sum();
        long bytes = group.stream().mapToLong(i -> files.get(i).bytes()).sum();
        written += bytes;
        group.forEach(i -> next.set(i, null));
        next.set(group.get(0), new Packable(bytes, live, live));
      }
      files.clear();
      next.stream().filter(file -> file != null).forEach(files::add);
    }

    long small() {
      return files.stream().filter(file -> file.bytes() * 2 < TARGET).count();
    }
  }

  @ParameterizedTest
  @ValueSource(ints = {1, 3, 10, 64, 1000, 4321})
  void aTableThatGrowsIsNotRewrittenAgainAndAgain(int appendsBetweenRuns) {
    Table table = new Table();
    for (int i = 1; i <= 100_000; i++) {
      table.append(file(1));
      if (i % appendsBetweenRuns == 0) {
        table.pack();
        assertThat(table.small()).isLessThanOrEqualTo(30);
      }
    }
    assertThat(table.written).isLessThanOrEqualTo(4 * table.appended);
    assertThat(table.files.size()).isLessThan(300 + appendsBetweenRuns);
  }

  @ParameterizedTest
  @ValueSource(longs = {1, 2, 3, 4})
  void nothingIsLostNorPackedTwiceWhateverTheSizes(long seed) {
    Random random = new Random(seed);
    for (int round = 0; round < 300; round++) {
      List<Packable> files = new ArrayList<>();
      for (int i = random.nextInt(60); i > 0; i--) {
        long rows = 1L + random.nextInt(1 << random.nextInt(24));
        long live = random.nextBoolean() ? rows : 1 + (long) (random.nextDouble() * (rows - 1));
        files.add(new Packable(1000 + rows * (1 + random.nextInt(200)), rows, live));
      }
      PackPolicy policy = new PackPolicy(1L << (10 + random.nextInt(22)), random.nextBoolean());
      List<Integer> packed = policy.groups(files).stream().flatMap(List::stream).toList();
      assertThat(packed).doesNotHaveDuplicates();
      assertThat(packed).allMatch(i -> policy.concerns(files.get(i)));
      assertThat(policy.groups(files)).allSatisfy(group -> assertThat(group).isSorted());
    }
  }

  /** Files of one row are as large as files of ten: sizes would have them packed for ever. */
  @Test
  void sizesThatDoNotAddUpAreNoReasonToPackAgain() {
    List<Packable> files = new ArrayList<>();
    long written = 0;
    for (int i = 1; i <= 20_000; i++) {
      files.add(new Packable(1500 + 10, 1, 1));
      List<List<Integer>> groups = new PackPolicy(128 << 20, false).groups(files);
      for (List<Integer> group : groups) {
        long rows = group.stream().mapToLong(at -> files.get(at).rows()).sum();
        written += rows;
        List<Packable> gone = group.stream().map(files::get).toList();
        files.removeAll(gone);
        files.add(0, new Packable(1500 + 10 * rows, rows, rows));
      }
      assertThat(files).hasSizeLessThan(80);
    }
    assertThat(written).isLessThanOrEqualTo(8 * 20_000L);
  }

  @Test
  void tenOfAKindArePackedAndNineAreNot() {
    PackPolicy policy = new PackPolicy(TARGET, false);
    assertThat(policy.groups(files(9, 1))).isEmpty();
    assertThat(policy.groups(files(10, 1))).hasSize(1);
    List<Packable> carried = files(9, 10);
    carried.addAll(files(10, 1));
    assertThat(policy.groups(carried)).hasSize(1);
    assertThat(policy.groups(carried).get(0)).hasSize(19);
    assertThat(new PackPolicy(TARGET, true).groups(files(2, 1))).hasSize(1);
    assertThat(new PackPolicy(TARGET, true).groups(files(1, 1))).isEmpty();
    assertThat(new PackPolicy(TARGET, true).groups(List.of(file(1), file(300)))).hasSize(1);
  }

  @ParameterizedTest
  @CsvSource({"10000, 0.625, 6", "10000, 1, 10", "1500, 1, 2", "1499, 1, 1", "25, 100, 2"})
  void whatIsPackedIsCutIntoFilesOfTheTarget(int count, double units, int groups) {
    List<List<Integer>> found = new PackPolicy(TARGET, false).groups(files(count, units));
    assertThat(found).hasSize(groups);
    for (List<Integer> group : found) {
      assertThat(group.size() * units).isBetween(500.0, 2000.0);
    }
  }

  @Test
  void aFullFileIsWrittenAnewWhenAFifthOfItIsMasked() {
    PackPolicy policy = new PackPolicy(TARGET, false);
    Packable fifth = new Packable(TARGET, 1000, 800);
    Packable less = new Packable(TARGET, 1000, 801);
    assertThat(policy.groups(List.of(less, fifth, file(1)))).containsExactly(List.of(1));
    assertThat(policy.concerns(less)).isFalse();
  }

  @Test
  void maskedRowsCountBeforeSizeDoes() {
    PackPolicy policy = new PackPolicy(TARGET, false);
    Packable most = new Packable(TARGET / 3, 1000, 50);
    Packable few = new Packable(TARGET / 3, 1000, 990);
    assertThat(policy.groups(List.of(most, most))).containsExactly(List.of(0, 1));
    assertThat(policy.groups(List.of(few, most, few))).containsExactly(List.of(1));
    assertThat(policy.groups(List.of(few, few))).isEmpty();
  }
}
