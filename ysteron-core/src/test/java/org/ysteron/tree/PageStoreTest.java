package org.ysteron.tree;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;
import org.ysteron.store.MemoryStore;

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
    old.settleInPages(41, id);
    PageBatch batch = new PageBatch();
    PageRef near = write(batch, "near");
    ByteOut out = new ByteOut();
    near.write(out, batch.home());
    far.write(out, batch.home());
    batch.settleInEntry(42, 100);
    ByteIn in = new ByteIn(out.toByteArray());
    PageHome here = PageHome.entry(42, 100);
    PageRef nearAgain = PageRef.read(in, here);
    PageRef farAgain = PageRef.read(in, here);
    assertThat(nearAgain).isEqualTo(near);
    assertThat(nearAgain.home().objectName()).isEqualTo("ledger/000/000/042");
    assertThat(nearAgain.home().regionStart()).isEqualTo(100);
    assertThat(farAgain).isEqualTo(far).isNotEqualTo(near);
    assertThat(farAgain.home().objectName()).isEqualTo("pages/000000041-" + id);
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
        .hasMessageContaining("the page at 0 of 7 bytes has not the SHA-256 " + ref.hashText());
  }

  @Test
  void decodedPagesAreKeptAndForgottenWithTheirBatch() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "content");
    AtomicInteger decoded = new AtomicInteger();
    for (int i = 0; i < 3; i++) {
      pages.decoded(ref, bytes -> "decoded " + decoded.incrementAndGet());
    }
    assertThat(decoded).hasValue(1);
    pages.forget(batch);
    pages.decoded(ref, bytes -> "decoded " + decoded.incrementAndGet());
    assertThat(decoded).hasValue(2);
  }

  @Test
  void theCacheHasALimit() {
    PageBatch batch = new PageBatch();
    PageRef first = write(batch, "first");
    pages.keepMade(first, "made");
    for (int i = 0; i < 40; i++) {
      pages.keepMade(batch.add(new byte[100_000 + i]), "large");
    }
    assertThat(pages.cached(first)).isNull();
  }

  @Test
  void rootsComeBackFromText() {
    PageBatch batch = new PageBatch();
    PageRef ref = write(batch, "x");
    batch.settleInEntry(9, 5);
    PageHome home = PageHome.entry(9, 5);
    PageTree.Root root = new PageTree.Root(ref, 2, 77);
    assertThat(PageTree.Root.parse(root.toText(home), home)).isEqualTo(root);
    assertThat(PageTree.Root.parse("", home)).isEqualTo(PageTree.Root.EMPTY);
    assertThat(PageTree.Root.EMPTY.toText(home)).isEmpty();
  }
}
