package org.ysteron.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What every store must keep to; each implementation's test extends this. */
abstract class ObjectStoreContract {
  private ObjectStore store;

  abstract ObjectStore open();

  @BeforeEach
  void openStore() {
    store = open();
  }

  @AfterEach
  void closeStore() {
    store.close();
  }

  private static byte[] bytes(String text) {
    return text.getBytes(StandardCharsets.UTF_8);
  }

  @Test
  void whatIsCreatedIsReadBack() {
    assertThat(store.createIfAbsent("a/b/c", bytes("one"))).isTrue();
    assertThat(store.read("a/b/c")).isEqualTo(bytes("one"));
    assertThat(store.createIfAbsent("a/b/c", bytes("two"))).isFalse();
    assertThat(store.read("a/b/c")).isEqualTo(bytes("one"));
  }

  @Test
  void unfinishedObjectsTellWhatTheyWereToBeAndCanBeDiscarded() {
    ObjectOutput output = store.put("data/x/000000041-abc.parquet");
    assertThat(store.unfinished("")).hasSize(1);
    ObjectStore.Unfinished left = store.unfinished("data").get(0);
    assertThat(left.name()).isEqualTo("data/x/000000041-abc.parquet");
    assertThat(store.list("data/x", "", 10)).isEmpty();
    store.discard(left);
    assertThat(store.unfinished("")).isEmpty();
    assertThatThrownBy(output::commit).isInstanceOf(StoreException.class);
    output.close();
    assertThat(store.list("data/x", "", 10)).isEmpty();
  }

  @Test
  void aMissingObjectIsSaidToBeMissing() {
    assertThatThrownBy(() -> store.read("no/such"))
        .isInstanceOf(MissingObjectException.class)
        .hasMessageContaining("no/such");
    assertThatThrownBy(() -> store.open("no/such")).isInstanceOf(MissingObjectException.class);
    store.delete("no/such");
  }

  @Test
  void aRangeIsReadWithoutAskingForTheLength() {
    store.createIfAbsent("a/b", new byte[] {1, 2, 3, 4});
    assertThat(store.readRange("a/b", 1, 2)).containsExactly(2, 3);
    assertThat(store.readRange("a/b", 4, 0)).isEmpty();
    assertThatThrownBy(() -> store.readRange("a/b", 3, 2))
        .isInstanceOf(ShortObjectException.class)
        .hasMessageContaining("has 4 bytes; bytes up to 5 were asked for");
    assertThatThrownBy(() -> store.readRange("a/c", 0, 1))
        .isInstanceOf(MissingObjectException.class);
  }

  @Test
  void whatIsThereCanBeSettledAndTheStoreTellsItsTime() {
    store.makeRoot();
    store.createIfAbsent("a/b/c", new byte[] {1});
    store.settle("a/b/c");
    assertThat(store.read("a/b/c")).containsExactly(1);
    Instant now = Instant.now();
    assertThat(store.time()).isBetween(now.minusSeconds(10), now.plusSeconds(10));
  }

  @Test
  void rangesAreReadExactly() {
    store.createIfAbsent("x", bytes("0123456789"));
    try (ObjectInput input = store.open("x")) {
      assertThat(input.size()).isEqualTo(10);
      assertThat(input.read(3, 4)).isEqualTo(bytes("3456"));
      ByteBuffer direct = ByteBuffer.allocateDirect(2);
      input.readFully(8, direct);
      assertThat(direct.get(1)).isEqualTo((byte) '9');
      assertThatThrownBy(() -> input.read(8, 3)).isInstanceOf(StoreException.class);
    }
  }

  @Test
  void aPutIsSeenWhenItIsCommittedAndNotBefore() {
    try (ObjectOutput output = store.put("data/one")) {
      write(output, "first");
      assertThat(store.list("data", "", 10)).isEmpty();
      assertThat(output.position()).isEqualTo(5);
      output.commit();
    }
    assertThat(store.read("data/one")).isEqualTo(bytes("first"));
  }

  @Test
  void aPutThatIsGivenUpLeavesNothing() {
    try (ObjectOutput output = store.put("data/one")) {
      write(output, "first");
    }
    assertThat(store.list("data", "", 10)).isEmpty();
    assertThatThrownBy(() -> store.read("data/one")).isInstanceOf(MissingObjectException.class);
  }

  private static void write(ObjectOutput output, String text) {
    try {
      output.write(bytes(text));
    } catch (java.io.IOException e) {
      throw new java.io.UncheckedIOException(e);
    }
  }

  @Test
  void childrenComeInOrderFromAStartUpToALimit() {
    for (String name : List.of("d/010", "d/002/x", "d/001", "d/002/y", "d/0", "e/1")) {
      store.createIfAbsent(name, bytes("abc"));
    }
    assertThat(store.list("d", "", 10))
        .containsExactly(
            new ObjectStore.Child("0", false, 3),
            new ObjectStore.Child("001", false, 3),
            new ObjectStore.Child("002", true, 0),
            new ObjectStore.Child("010", false, 3));
    assertThat(store.list("d", "001", 1)).extracting("segment").containsExactly("002");
    assertThat(store.list("", "", 10)).extracting("segment").containsExactly("d", "e");
    assertThat(store.list("none", "", 10)).isEmpty();
  }

  @Test
  void aDeletedObjectIsGoneAndItsNameFree() {
    store.createIfAbsent("a/b", bytes("1"));
    store.delete("a/b");
    assertThat(store.list("a", "", 10)).isEmpty();
    assertThat(store.createIfAbsent("a/b", bytes("2"))).isTrue();
  }

  @Test
  void ofRacingCreatesOneWins() throws Exception {
    ExecutorService threads = Executors.newFixedThreadPool(8);
    try {
      for (int round = 0; round < 20; round++) {
        String name = "race/" + round;
        List<Callable<Boolean>> racers = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
          byte[] content = bytes("racer " + i);
          racers.add(() -> store.createIfAbsent(name, content));
        }
        int winner = -1;
        List<Future<Boolean>> results = threads.invokeAll(racers);
        for (int i = 0; i < 8; i++) {
          if (results.get(i).get()) {
            assertThat(winner).isEqualTo(-1);
            winner = i;
          }
        }
        assertThat(store.read(name)).isEqualTo(bytes("racer " + winner));
      }
    } finally {
      threads.shutdownNow();
    }
  }

  @ParameterizedTest
  @ValueSource(
      strings = {"", "/", "a//b", "../x", "a/../b", ".hidden", "a/.b", "a b", "a\u0000b", "é"})
  void hostileNamesAreRefused(String name) {
    assertThatThrownBy(() -> store.createIfAbsent(name, bytes("x")))
        .isInstanceOf(IllegalArgumentException.class);
    assertThatThrownBy(() -> store.read(name)).isInstanceOf(IllegalArgumentException.class);
  }

  @Test
  void theRaceBeforeALakeIsMadePasses() {
    CreationRace.run(store);
    assertThat(store.list("probe", "", 10)).isEmpty();
  }
}
