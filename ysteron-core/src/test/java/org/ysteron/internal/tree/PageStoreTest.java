package org.ysteron.internal.tree;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.StoreException;

class PageStoreTest {
  private final MemoryStore store = new MemoryStore();
  private final PageStore pages = new PageStore(store);

  private static byte[] page(String text) {
    return text.getBytes(StandardCharsets.UTF_8);
  }

  private PageRef write(PageBatch batch, String text) {
    return batch.add(page(text));
  }

  @Test
  void pagesOfAnOpenBatchAreReadFromMemory() {
    PageBatch batch = new PageBatch();
    List<PageRef> refs = new ArrayList<>();
    for (int i = 0; i < 10; i++) {
      refs.add(write(batch, "page " + "x".repeat(i)));
    }
    for (int i = 0; i < 10; i++) {
      assertThat(pages.read(refs.get(i))).isEqualTo(page("page " + "x".repeat(i)));
    }
    assertThat(pages.pagesRead()).isZero();
    assertThat(batch.size()).isEqualTo(batch.toByteArray().length);
    assertThatThrownBy(() -> batch.home().objectName()).isInstanceOf(IllegalStateException.class);
  }

  @Test
  void settledPagesAreReadFromTheirObjectBehindItsHead() {
    PageBatch batch = new PageBatch();
    PageRef first = write(batch, "first");
    PageRef second = write(batch, "second");
    batch.settleInEntry(42, 4);
    store.createIfAbsent("ledger/000/000/042", page("headfirstsecond"));
    assertThat(pages.read(first)).isEqualTo(page("first"));
    assertThat(pages.read(second)).isEqualTo(page("second"));
    assertThat(pages.pagesRead()).isEqualTo(2);
  }

  @Test
  void referencesKeepTheirMeaningInAnotherObject() {
    UUID id = new UUID(7, 8);
    PageBatch old = new PageBatch();
    PageRef far = write(old, "far");
    old.settle(PageHome.tablePages(new UUID(5, 6), 41, id));
    PageBatch batch = new PageBatch();
    PageRef near = write(batch, "near");
    ByteOut out = new ByteOut();
    PagePlace next = batch.next();
    near.write(out, next);
    far.write(out, next);
    batch.settleInEntry(42, 100);
    ByteIn in = new ByteIn(out.toByteArray());
    PagePlace here = new PagePlace(PageHome.entry(42), 104);
    PageRef nearAgain = PageRef.read(in, here);
    PageRef farAgain = PageRef.read(in, here);
    assertThat(nearAgain).isEqualTo(near);
    assertThat(nearAgain.home().objectName()).isEqualTo("ledger/000/000/042");
    assertThat(nearAgain.position()).isEqualTo(100);
    assertThat(farAgain).isEqualTo(far).isNotEqualTo(near);
    assertThat(farAgain.home().objectName())
        .isEqualTo("pages/" + new UUID(5, 6) + "/000000041-" + id);
    assertThat(PageRef.parse(far.toText(here), here)).isEqualTo(far);
    assertThatThrownBy(() -> PageRef.parse("zz", here)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> PageRef.parse("07", here)).hasMessageContaining("unknown kind 7");
  }

  @Test
  void aPageThatIsNotWhatWasPromisedIsDamage() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "content");
    batch.settleInEntry(3, 0);
    assertThatThrownBy(() -> pages.read(ref))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("Object ledger/000/000/003 is missing");
    store.createIfAbsent("ledger/000/000/003", page("cont"));
    assertThatThrownBy(() -> pages.read(ref)).hasMessageContaining("is cut short");
    store.delete("ledger/000/000/003");
    store.createIfAbsent("ledger/000/000/003", page("kontent"));
    assertThatThrownBy(() -> pages.read(ref))
        .hasMessageContaining(
            "the page at 0 of 7 bytes does not have the expected SHA-256 " + ref.hashText());
  }

  @Test
  void whatIsMissingBelowTheFloorHasExpired() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "content");
    batch.settleInEntry(3, 0);
    AtomicLong floor = new AtomicLong(3);
    PageStore floored = new PageStore(store, floor::get);
    assertThatThrownBy(() -> floored.read(ref)).isInstanceOf(DamagedException.class);
    floor.set(4);
    assertThatThrownBy(() -> floored.read(ref))
        .isInstanceOf(ExpiredException.class)
        .hasMessageContaining("which is no longer kept");
    store.createIfAbsent("ledger/000/000/003", page("a sleeper's junk"));
    assertThatThrownBy(() -> floored.read(ref)).isInstanceOf(ExpiredException.class);
  }

  @Test
  void whatKeepsAnotherPageFromBeingReadIsNoDamageOfThisOne() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "refers to another");
    for (YsteronException elsewhere :
        List.of(
            new StoreException("no reply"),
            new ExpiredException("gone", null),
            new UnsupportedLakeException("newer"))) {
      assertThatThrownBy(() -> decode(ref, elsewhere)).isSameAs(elsewhere);
    }
    for (RuntimeException own :
        List.of(
            new DamagedException("broken"),
            new InvalidInputException("no type"),
            new IllegalArgumentException("negative"))) {
      assertThatThrownBy(() -> decode(ref, own))
          .isInstanceOf(DamagedException.class)
          .hasMessageContaining(own.getMessage());
    }
  }

  private void decode(PageRef ref, RuntimeException failure) {
    pages.decoded(
        ref,
        String.class,
        (bytes, place) -> {
          throw failure;
        });
  }

  @Test
  void decodedPagesAreKept() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "content");
    AtomicInteger decoded = new AtomicInteger();
    for (int i = 0; i < 3; i++) {
      pages.decoded(ref, String.class, (bytes, place) -> "decoded " + decoded.incrementAndGet());
    }
    assertThat(decoded).hasValue(1);
  }

  @Test
  void whatAnUnfinishedCommitMadeIsSeenByNobodyElse() {
    PageBatch mine = new PageBatch();
    PageBatch yours = new PageBatch();
    PageRef here = write(mine, "the same");
    PageRef there = write(yours, "the same");
    assertThat(here.sameContent(there)).isTrue();
    assertThat(here).isNotEqualTo(there);
    mine.keep(here, "mine");
    assertThat(pages.cached(here)).isEqualTo("mine");
    assertThat(pages.cached(there)).isNull();
    mine.settleInEntry(1, 0);
    assertThat(pages.cached(here)).isNull();
    pages.adopt(mine);
    assertThat(pages.cached(here)).isEqualTo("mine");
  }

  @Test
  void equalPagesInAnotherObjectAreOtherPages() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "moved");
    String self = ref.toText(batch.next());
    PageHome before = PageHome.lakePages(1, new UUID(1, 1));
    PageHome after = PageHome.lakePages(9, new UUID(2, 2));
    store.createIfAbsent(before.objectName(), batch.toByteArray());
    store.createIfAbsent(after.objectName(), batch.toByteArray());
    PageRef old = PageRef.parse(self, new PagePlace(before, batch.size()));
    PageRef moved = PageRef.parse(self, new PagePlace(after, batch.size()));
    PageHome first = pages.decoded(old, PageHome.class, (bytes, place) -> place.home());
    PageHome second = pages.decoded(moved, PageHome.class, (bytes, place) -> place.home());
    assertThat(first).isEqualTo(before);
    assertThat(second).isEqualTo(after);
    assertThat(moved.sameContent(old)).isTrue();
  }

  @Test
  void reachIsTheLeastOfWhatHangsOnAPageAndOfItsHome() {
    PageBatch old = new PageBatch();
    PageRef far = write(old, "far");
    old.settleInEntry(7, 0);
    PageBatch batch = new PageBatch();
    PageRef near = write(batch, "near");
    PageRef both = batch.add(page("both"), Reach.below(batch.home(), List.of(near, far)));
    assertThat(both.below()).isEqualTo(new Reach(7, Long.MAX_VALUE));
    batch.settle(PageHome.tablePages(new UUID(5, 6), 12, new UUID(1, 1)));
    assertThat(both.reach()).isEqualTo(new Reach(7, 12));
    assertThat(near.reach()).isEqualTo(new Reach(Long.MAX_VALUE, 12));
    PagePlace elsewhere = new PagePlace(PageHome.entry(99), 500);
    PageRef read = PageRef.parse(both.toText(elsewhere), elsewhere);
    assertThat(read.reach()).isEqualTo(new Reach(7, 12));
    assertThat(read).isEqualTo(both);
  }

  @Test
  void manyReferencesTellTheirHomesOnce() {
    PageBatch old = new PageBatch();
    PageBatch batch = new PageBatch();
    PageRef[] refs = new PageRef[60];
    for (int i = 0; i < refs.length; i++) {
      refs[i] = write(i % 3 == 0 ? batch : old, "page " + i);
    }
    old.settle(PageHome.tablePages(new UUID(5, 6), 12, new UUID(1, 1)));
    ByteOut out = new ByteOut();
    PageRef.writeAll(refs, out, batch.next());
    assertThat(out.size()).isLessThan(40 * refs.length);
    assertThat(PageRef.readAll(refs.length, new ByteIn(out.toByteArray()), batch.next()))
        .isEqualTo(refs);
  }

  @Test
  void theCacheHasALimit() {
    PageBatch batch = new PageBatch();
    PageRef first = write(batch, "first");
    batch.keep(first, "made");
    batch.settleInEntry(1, 0);
    pages.adopt(batch);
    assertThat(pages.cached(first)).isEqualTo("made");
    for (int i = 0; i < 200; i++) {
      pages.keep(new PageRef(PageHome.entry(i), 0, 100_000, new byte[32], Reach.NONE), "large");
    }
    assertThat(pages.cached(first)).isNull();
  }

  @Test
  void rootsComeBackFromText() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "x");
    batch.settleInEntry(9, 5);
    PagePlace home = new PagePlace(PageHome.entry(9), 500);
    PageTree.Root root = new PageTree.Root(ref, 2, 77);
    assertThat(PageTree.Root.parse(root.toText(home), home)).isEqualTo(root);
    assertThat(PageTree.Root.parse("", home)).isEqualTo(PageTree.Root.EMPTY);
    assertThat(PageTree.Root.EMPTY.toText(home)).isEmpty();
  }
}
