package org.ysteron.internal.tree;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.store.MemoryStore;

class PageTreeTest {
  private final MemoryStore store = new MemoryStore();
  private final PageStore pages = new PageStore(store);
  private long commits;

  private PageTree<String, Long> empty() {
    return new PageTree<>(pages, new StringFormat(), PageTree.Root.EMPTY);
  }

  private static byte[] key(long number) {
    return ByteBuffer.allocate(8).putLong(number).array();
  }

  /** Applies edits and writes the pages as an entry does; odd ones go to objects of their own. */
  private PageTree<String, Long> apply(PageTree<String, Long> tree, Map<Long, String> edits) {
    PageBatch batch = new PageBatch();
    List<Edit<String>> list = new ArrayList<>();
    new TreeMap<>(edits)
        .forEach((k, v) -> list.add(v == null ? Edit.remove(key(k)) : Edit.put(key(k), v)));
    PageTree<String, Long> edited = tree.apply(list, batch);
    commits++;
    if (commits % 2 == 0) {
      java.util.UUID id = new java.util.UUID(1, commits);
      batch.settle(PageHome.lakePages(commits, id));
    } else {
      batch.settleInEntry(commits, 0);
    }
    if (batch.size() > 0) {
      store.createIfAbsent(batch.home().objectName(), batch.toByteArray());
    }
    PageStore fresh = new PageStore(store);
    return new PageTree<>(fresh, new StringFormat(), edited.root());
  }

  private static Map<Long, String> contents(PageTree<String, Long> tree) {
    Map<Long, String> found = new TreeMap<>();
    TreeCursor<String, Long> cursor = tree.cursor();
    while (cursor.next()) {
      found.put(ByteBuffer.wrap(cursor.key()).getLong(), cursor.value());
    }
    return found;
  }

  @Property(tries = 60)
  void aTreeHoldsWhatAMapHoldsAndDiffsAreExact(
      @ForAll long seed, @ForAll @IntRange(min = 1, max = 12) int rounds) {
    Random random = new Random(seed);
    TreeMap<Long, String> model = new TreeMap<>();
    PageTree<String, Long> tree = empty();
    for (int round = 0; round < rounds; round++) {
      TreeMap<Long, String> before = new TreeMap<>(model);
      TreeMap<Long, String> edits = new TreeMap<>();
      int count = random.nextInt(4) == 0 ? random.nextInt(3000) : random.nextInt(20);
      for (int i = 0; i < count; i++) {
        long k = random.nextInt(random.nextBoolean() ? 5000 : 100);
        String value = random.nextInt(3) == 0 ? null : "v" + random.nextInt(1 << 20);
        edits.put(k, value);
        if (value == null) {
          model.remove(k);
        } else {
          model.put(k, value);
        }
      }
      PageTree<String, Long> next = apply(tree, edits);
      assertThat(contents(next)).isEqualTo(model);
      assertThat(next.count()).isEqualTo(model.size());
      assertThat(next.summary().orElse(0L))
          .isEqualTo(model.values().stream().mapToLong(String::length).sum());
      assertThat(differences(tree, next)).isEqualTo(differences(before, model));
      long probe = random.nextInt(5000);
      assertThat(next.get(key(probe))).isEqualTo(Optional.ofNullable(model.get(probe)));
      TreeCursor<String, Long> from = next.cursorFrom(key(probe));
      assertThat(from.next()).isEqualTo(model.ceilingKey(probe) != null);
      if (model.ceilingKey(probe) != null) {
        assertThat(ByteBuffer.wrap(from.key()).getLong()).isEqualTo(model.ceilingKey(probe));
      }
      tree = next;
    }
  }

  private static Map<Long, String> differences(
      PageTree<String, Long> before, PageTree<String, Long> after) {
    Map<Long, String> found = new TreeMap<>();
    TreeDiff<String, Long> diff = before.diff(after);
    Optional<TreeDiff.Change<String>> change = diff.next();
    while (change.isPresent()) {
      found.put(
          ByteBuffer.wrap(change.get().key()).getLong(),
          change.get().before().orElse("-") + ">" + change.get().after().orElse("-"));
      change = diff.next();
    }
    return found;
  }

  private static Map<Long, String> differences(Map<Long, String> before, Map<Long, String> after) {
    Map<Long, String> found = new TreeMap<>();
    before.forEach((k, v) -> found.put(k, v + ">" + after.getOrDefault(k, "-")));
    after.forEach((k, v) -> found.put(k, before.getOrDefault(k, "-") + ">" + v));
    found
        .values()
        .removeIf(v -> v.substring(0, v.indexOf('>')).equals(v.substring(v.indexOf('>') + 1)));
    return found;
  }

  @Test
  void aSmallEditOfALargeTreeWritesOnlyAPath() {
    TreeMap<Long, String> edits = new TreeMap<>();
    for (long i = 0; i < 50_000; i++) {
      edits.put(i, "value " + i);
    }
    PageTree<String, Long> tree = apply(empty(), edits);
    PageBatch batch = new PageBatch();
    PageTree<String, Long> next = tree.apply(List.of(Edit.put(key(25_000), "new")), batch);
    int pages = next.root().height() + 1;
    assertThat(batch.size()).isBetween(1000L * pages, 20_000L * pages);
    long before = tree.pages().pagesRead();
    assertThat(differences(tree, new PageTree<>(tree.pages(), new StringFormat(), next.root())))
        .hasSize(1);
    assertThat(tree.pages().pagesRead() - before).isLessThanOrEqualTo(2L * next.root().height());
  }

  @Test
  void pagesStayFullWhenKeysComeInOrder() {
    PageTree<String, Long> tree = empty();
    for (long i = 0; i < 3_000; i++) {
      tree = apply(tree, new TreeMap<>(Map.of(i, "a value of some length, number " + i)));
    }
    long bytes = 0;
    TreeCursor<String, Long> cursor = tree.cursor();
    while (cursor.next()) {
      bytes += cursor.value().length();
    }
    assertThat(tree.root().height()).isGreaterThan(0);
    Node<String, Long> root = tree.top();
    assertThat(root.size).isLessThan((int) (bytes / StringFormat.PAGE_BYTES) + 3);
  }

  @Test
  void theLastEntryThatPassesIsFoundThroughSummaries() {
    TreeMap<Long, String> edits = new TreeMap<>();
    for (long i = 0; i < 5_000; i++) {
      edits.put(i, "v" + i);
    }
    PageTree<String, Long> tree = apply(empty(), edits);
    assertThat(tree.last(sum -> true, value -> value.endsWith("77")).orElseThrow().getValue())
        .isEqualTo("v4977");
    assertThat(tree.last(sum -> false, value -> true)).isEmpty();
  }

  /** Strings; the summary is the sum of their lengths. */
  static final class StringFormat implements TreeFormat<String, Long> {
    static final int PAGE_BYTES = 1024;

    @Override
    public int code() {
      return 99;
    }

    @Override
    public int pageBytes() {
      return PAGE_BYTES;
    }

    @Override
    public void writeValues(List<String> values, Sections.Builder out) {
      values.forEach(value -> out.part(10).text(value));
      out.part(10);
    }

    @Override
    public List<String> readValues(int count, Sections in) {
      ByteIn part = in.part(10);
      List<String> values = new ArrayList<>();
      for (int i = 0; i < count; i++) {
        values.add(part.text());
      }
      return values;
    }

    @Override
    public Long summarize(List<String> values) {
      return values.stream().mapToLong(String::length).sum();
    }

    @Override
    public Long combine(List<Long> parts) {
      return parts.stream().mapToLong(Long::longValue).sum();
    }

    @Override
    public void writeSummaries(List<Long> summaries, Sections.Builder out) {
      summaries.forEach(out.part(10)::varint);
    }

    @Override
    public List<Long> readSummaries(int count, Sections in) {
      ByteIn part = in.part(10);
      List<Long> summaries = new ArrayList<>();
      for (int i = 0; i < count; i++) {
        summaries.add(part.varint());
      }
      return summaries;
    }
  }
}
