package org.ysteron.internal.table;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.UUID;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

class FileFormatTest {
  private static final List<Type> TYPES =
      List.of(
          Types.BIGINT,
          Types.DOUBLE,
          Types.text(),
          Types.decimal(9, 2),
          Types.decimal(30, 2),
          Types.INSTANT,
          Types.BOOLEAN,
          Types.REAL);

  private static ColumnRange range(Random random, Type type) {
    int kind = random.nextInt(6);
    if (kind < 3) {
      return kind == 0
          ? ColumnRange.UNKNOWN
          : kind == 1 ? ColumnRange.allNull(type, random.nextInt(100)) : ColumnRange.ABSENT;
    }
    long nulls = random.nextLong(3) - 1;
    ColumnRange range;
    if (Ordered.isBytes(type)) {
      byte[] low = new byte[random.nextInt(20)];
      byte[] high = new byte[random.nextInt(20)];
      random.nextBytes(low);
      random.nextBytes(high);
      range = ColumnRange.of(type, nulls, low, random.nextInt(5) == 0 ? null : high);
    } else if (Ordered.isFloating(type)) {
      double low = random.nextBoolean() ? random.nextInt(1000) / 10.0 : random.nextGaussian();
      double high = random.nextInt(6) == 0 ? Double.NaN : low + 1;
      range = ColumnRange.of(type, nulls, Ordered.ofDouble(low), Ordered.ofDouble(high));
    } else {
      long low = random.nextLong() >> random.nextInt(60);
      range = ColumnRange.of(type, nulls, low, Math.max(low, low + random.nextInt(1000)));
    }
    return random.nextInt(8) == 0 ? range.orAbsent() : range;
  }

  private static FileEntry entry(Random random, int number) {
    Map<Integer, ColumnRange> ranges = new HashMap<>();
    for (int id = 1; id <= TYPES.size(); id++) {
      if (random.nextInt(7) > 0) {
        // A column of another type in some files, as after a change of schema.
        Type type = random.nextInt(9) == 0 ? Types.INTEGER : TYPES.get(id - 1);
        ranges.put(id, range(random, type));
      }
    }
    byte[] footerHash = new byte[32];
    byte[] hash = new byte[32];
    random.nextBytes(footerHash);
    random.nextBytes(hash);
    return FileEntry.of(
        new FileEntry.Numbers(
            number,
            number - random.nextInt(2),
            random.nextInt(1000),
            new FileEntry.Extent(
                random.nextLong() >>> 20,
                random.nextInt(5000),
                random.nextInt(1 << 20),
                random.nextInt(5)),
            new FileEntry.WrittenBy(
                0, random.nextInt(3), TYPES.size() + random.nextInt(2), random.nextInt(3)),
            births(random),
            random.nextLong() >>> 10),
        new UUID(random.nextLong(), random.nextLong()),
        footerHash,
        hash,
        ranges,
        Map.of());
  }

  private static FileEntry.Births births(Random random) {
    long own = 50L + random.nextInt(50);
    return new FileEntry.Births(
        own, own + random.nextInt(3), own - random.nextInt(50), own + random.nextInt(2));
  }

  @Property(tries = 60)
  void entriesComeBackFromTheirPages(@ForAll long seed) {
    Random random = new Random(seed);
    int count = 1 + random.nextInt(400);
    List<FileEntry> entries = new ArrayList<>();
    List<Edit<FileEntry>> edits = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      entries.add(entry(random, 2 * i));
    }
    entries.forEach(entry -> edits.add(Edit.put(entry.key(), entry)));
    edits.sort((a, b) -> java.util.Arrays.compareUnsigned(a.key(), b.key()));
    MemoryStore store = new MemoryStore();
    PageBatch batch = new PageBatch();
    PageTree<FileEntry, FileSummary> tree =
        new PageTree<>(new PageStore(store), FileFormat.INSTANCE, PageTree.Root.EMPTY)
            .apply(edits, batch);
    batch.settleInEntry(7, 0);
    store.createIfAbsent(batch.home().objectName(), batch.toByteArray());
    PageTree<FileEntry, FileSummary> read =
        new PageTree<>(new PageStore(store), FileFormat.INSTANCE, tree.root());
    List<FileEntry> back = new ArrayList<>();
    TreeCursor<FileEntry, FileSummary> cursor = read.cursor();
    while (cursor.next()) {
      back.add(cursor.value());
    }
    assertThat(back).containsExactlyInAnyOrderElementsOf(entries);
    FileSummary summary = read.summary().orElseThrow();
    assertThat(summary.numbers().rows())
        .isEqualTo(entries.stream().mapToLong(FileEntry::rows).sum());
    for (int id = 1; id <= TYPES.size() + 2; id++) {
      for (FileEntry entry : entries) {
        assertCovers(summary.range(id), entry.range(id));
      }
    }
  }

  /** A summary's range is as wide as each of those below it. */
  private static void assertCovers(ColumnRange whole, ColumnRange part) {
    assertThat(whole.unite(part).withNulls(0)).isEqualTo(whole.withNulls(0));
  }

  @Test
  void aColumnYoungerThanAFileIsAbsentFromIt() {
    FileEntry entry = entry(new Random(1), 1);
    assertThat(entry.range(50)).isEqualTo(ColumnRange.ABSENT);
    FileEntry silent =
        FileEntry.of(entry.numbers(), entry.id(), new byte[32], new byte[32], Map.of(), Map.of());
    assertThat(silent.range(3)).isEqualTo(ColumnRange.UNKNOWN);
    assertThat(silent.objectName(new UUID(0, 1)))
        .matches("data/00000000-0000-0000-0000-000000000001/[0-9]{9}-[0-9a-f-]{36}\\.parquet");
  }

  @Test
  void propertiesHaveNamesAndLimits() {
    assertThat(TableSettings.DEFAULTS.number(TableSettings.FILE_BYTES)).isEqualTo(128L << 20);
    assertThat(TableSettings.DEFAULTS.with(TableSettings.RANGED_COLUMNS, 5).values())
        .containsEntry("ranged.columns", 5L);
    assertThatThrownBy(() -> TableSettings.DEFAULTS.with("file.byte", 5))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("Did you mean file.bytes?");
    assertThatThrownBy(() -> TableSettings.DEFAULTS.with("file.bytes", 5))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("it must be a number from 1024 to");
    assertThat(TableSettings.names())
        .contains("file.bytes", "drift", "names.ignore.case", "rewrite.percent");
  }
}
