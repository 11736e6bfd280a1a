package org.ysteron.internal.tree;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.store.MemoryStore;

/** Pages whose hashes are right, and which are not what they say. */
@Timeout(10)
class HostilePagesTest {
  private static final int KEYS = 0;
  private static final int CHILDREN = 1;
  private static final int COUNTS = 2;
  private static final int VALUES = 10;
  private static final PageTreeTest.StringFormat FORMAT = new PageTreeTest.StringFormat();

  private final MemoryStore store = new MemoryStore();
  private final PageBatch batch = new PageBatch();

  private static byte[] key(long number) {
    return ByteBuffer.allocate(8).putLong(number).array();
  }

  private static ByteOut keys(int count) {
    ByteOut plain = new ByteOut();
    for (int i = 0; i < count; i++) {
      plain.varint(0).varint(8).raw(key(i));
    }
    return new ByteOut().zstd(plain.toByteArray());
  }

  /** A page of a tree, of parts by number. */
  private PageRef page(boolean leaf, long size, Object... parts) {
    ByteOut page = new ByteOut();
    page.u8(FORMAT.code()).u8(leaf ? 0 : 1).varint(size).varint(parts.length / 2);
    for (int i = 0; i < parts.length; i += 2) {
      page.varint((Integer) parts[i]).varint(((ByteOut) parts[i + 1]).size());
    }
    for (int i = 1; i < parts.length; i += 2) {
      page.raw(((ByteOut) parts[i]).toByteArray());
    }
    return batch.add(page.toByteArray());
  }

  private PageRef leaf() {
    return real(3).ref();
  }

  /** A tree of so many keys as it is made. */
  private PageTree.Root real(int count) {
    PageTree<String, Long> tree = new PageTree<>(new PageStore(store), FORMAT, PageTree.Root.EMPTY);
    List<Edit<String>> edits = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      edits.add(Edit.put(key(i), "v" + i));
    }
    return tree.apply(edits, batch).root();
  }

  private PageRef above(long count, PageRef... children) {
    ByteOut refs = new ByteOut();
    PageRef.writeAll(children, refs, batch.next());
    long[] counts = new long[children.length];
    Arrays.fill(counts, count);
    ByteOut summaries = new ByteOut();
    for (int i = 0; i < children.length; i++) {
      summaries.varint(6);
    }
    return page(
        false,
        children.length,
        KEYS,
        keys(children.length),
        CHILDREN,
        refs,
        COUNTS,
        new ByteOut().packed(counts, counts.length),
        VALUES,
        summaries);
  }

  private long read(PageRef top, int height, long count) {
    if (batch.size() > 0) {
      batch.settleInEntry(1, 0);
      store.createIfAbsent(batch.home().objectName(), batch.toByteArray());
    }
    PageTree<String, Long> tree =
        new PageTree<>(new PageStore(store), FORMAT, new PageTree.Root(top, height, count));
    TreeCursor<String, Long> cursor = tree.cursor();
    long found = 0;
    while (cursor.next()) {
      found += cursor.value().isEmpty() ? 0 : 1;
      cursor.key();
    }
    return found;
  }

  private void assertDamage(PageRef top, int height, long count) {
    assertThatThrownBy(() -> read(top, height, count))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("ledger/000/000/001");
  }

  @Test
  void aTreeThatIsWhatItSaysIsRead() {
    PageTree.Root root = real(5000);
    assertThat(read(root.ref(), root.height(), 5000)).isEqualTo(5000);
  }

  @Test
  void aLeafThatClaimsMillionsOfKeys() {
    ByteOut nothing = new ByteOut().zstd(new byte[0]);
    assertDamage(page(true, 1 << 22, KEYS, nothing, VALUES, nothing), 0, 1 << 22);
  }

  @Test
  void keysThatBecomeMoreThanTheirBytesCan() {
    ByteOut bomb = new ByteOut().varint(1 << 26).varint(20).raw(new byte[20]);
    assertDamage(page(true, 3, KEYS, bomb, VALUES, bomb), 0, 3);
  }

  @Test
  void aPageWithOneChildOverAndOver() {
    PageRef ref = leaf();
    PageRef[] same = new PageRef[200];
    Arrays.fill(same, ref);
    assertDamage(above(3, same), 1, 600);
  }

  @Test
  void heightsAndCountsThatDoNotAgree() {
    PageTree.Root root = real(5000);
    assertThat(root.height()).isPositive();
    assertDamage(root.ref(), root.height(), 4999);
    for (int height : new int[] {0, root.height() - 1, root.height() + 1}) {
      PageTree<String, Long> tree =
          new PageTree<>(new PageStore(store), FORMAT, new PageTree.Root(root.ref(), height, 5000));
      assertThatThrownBy(() -> tree.last(sum -> true, value -> value.equals("v0")))
          .isInstanceOf(DamagedException.class);
      assertThatThrownBy(() -> tree.get(key(7))).isInstanceOf(DamagedException.class);
    }
  }

  @Test
  void aChainOfPagesIsNoDeeperThanItsRootSays() {
    PageRef ref = leaf();
    for (int i = 0; i < 50; i++) {
      ref = above(3, ref);
    }
    assertDamage(ref, 5, 3);
    assertThatThrownBy(() -> PageTree.Root.parse("30000 1 00", new PagePlace(batch.home(), 0)))
        .isInstanceOf(DamagedException.class);
  }

  @Test
  void keysOutOfOrder() {
    ByteOut plain = new ByteOut();
    for (int i = 0; i < 3; i++) {
      plain.varint(0).varint(8).raw(key(3 - i));
    }
    ByteOut values = new ByteOut().text("a").text("b").text("c");
    assertDamage(
        page(true, 3, KEYS, new ByteOut().zstd(plain.toByteArray()), VALUES, values), 0, 3);
  }

  @Test
  void aPageThatIsReferredToAsSomethingElse() {
    PageRef text = batch.add("a page".getBytes(StandardCharsets.UTF_8));
    batch.settleInEntry(1, 0);
    store.createIfAbsent(batch.home().objectName(), batch.toByteArray());
    PageStore pages = new PageStore(store);
    pages.decoded(text, String.class, (bytes, place) -> "decoded");
    assertThat(pages.decoded(text, byte[].class, (bytes, place) -> bytes)).hasSize(6);
    PageTree<String, Long> tree = new PageTree<>(pages, FORMAT, new PageTree.Root(text, 0, 1));
    assertThatThrownBy(() -> tree.get(key(1)))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("cannot be read");
  }
}
