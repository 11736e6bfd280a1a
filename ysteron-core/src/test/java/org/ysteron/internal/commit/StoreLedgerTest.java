package org.ysteron.internal.commit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.error.DamagedException;
import org.ysteron.store.LocalStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

class StoreLedgerTest {
  private static final byte[] ENTRY = {1};

  @TempDir Path directory;
  private final ObjectStore store = new MemoryStore();
  private final StoreLedger ledger = new StoreLedger(store);

  private void create(long from, long to) {
    for (long n = from; n <= to; n++) {
      assertThat(ledger.create(n, ENTRY)).isTrue();
    }
  }

  @Test
  void anEmptyStoreHasNoNewestEntry() {
    assertThat(ledger.newest(-1)).isEqualTo(-1);
    assertThat(ledger.floor()).isZero();
    assertThat(ledger.exists(0)).isFalse();
    assertThatThrownBy(() -> ledger.read(0, 99))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("Ledger entry 0 (ledger/000/000/000) is missing");
  }

  @Test
  void aNumberIsGivenOnce() {
    create(0, 0);
    assertThat(ledger.create(0, new byte[] {2})).isFalse();
    assertThat(ledger.read(0, 99).isWholly(ENTRY)).isTrue();
    assertThat(ledger.read(0, 1).bytes()).hasSize(1);
    assertThat(ledger.read(0, 99).isWholly(new byte[9])).isFalse();
    assertThat(ledger.exists(0)).isTrue();
  }

  @ParameterizedTest
  @ValueSource(longs = {0, 5, 998, 999, 1000, 1001})
  void theNewestIsFoundFromNothingAndFromAnyKnownEntry(long newest) {
    create(0, newest);
    for (long known = -1; known <= newest; known += 1 + newest / 7) {
      assertThat(ledger.newest(known)).isEqualTo(newest);
    }
    assertThat(ledger.newest(newest)).isEqualTo(newest);
  }

  @Test
  void aHoleIsDamageFromNothingAndFromAKnownEntry() {
    create(0, 9);
    store.delete(ledger.nameOf(6));
    assertThatThrownBy(() -> ledger.newest(-1))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("entry ledger/000/000/006 is missing");
    assertThatThrownBy(() -> ledger.newest(5)).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> ledger.newest(6)).isInstanceOf(DamagedException.class);
    assertThat(ledger.newest(7)).isEqualTo(9);
    store.delete(ledger.nameOf(0));
    assertThatThrownBy(() -> ledger.newest(-1)).hasMessageContaining("ledger/000/000/000");
  }

  @Test
  void belowTheFloorEntriesMayBeGone() {
    create(0, 9);
    store.createIfAbsent("floor/000000004", new byte[0]);
    store.createIfAbsent("floor/000000007", new byte[0]);
    store.delete(ledger.nameOf(0));
    store.delete(ledger.nameOf(2));
    store.delete(ledger.nameOf(3));
    assertThat(ledger.floor()).isEqualTo(7);
    assertThat(ledger.newest(-1)).isEqualTo(9);
    store.delete(ledger.nameOf(8));
    assertThatThrownBy(() -> ledger.newest(-1)).hasMessageContaining("ledger/000/000/008");
  }

  @Test
  void namesThatAreNoNumbersAreIgnored() {
    create(0, 2);
    store.createIfAbsent("ledger/000/000/notes", ENTRY);
    store.createIfAbsent("ledger/readme", ENTRY);
    store.createIfAbsent("floor/old", ENTRY);
    assertThat(ledger.newest(-1)).isEqualTo(2);
    assertThat(ledger.newest(1)).isEqualTo(2);
    assertThat(ledger.floor()).isZero();
  }

  @Test
  void aDirectoryThatADyingWriterLeftEmptyIsPassedOver() throws IOException {
    LocalStore local = new LocalStore(directory);
    StoreLedger onDisk = new StoreLedger(local);
    for (long n = 0; n < 3; n++) {
      onDisk.create(n, ENTRY);
    }
    Files.createDirectories(directory.resolve("ledger/000/001"));
    Files.createDirectories(directory.resolve("ledger/001/000"));
    assertThat(onDisk.newest(-1)).isEqualTo(2);
    assertThat(onDisk.newest(2)).isEqualTo(2);
  }
}
