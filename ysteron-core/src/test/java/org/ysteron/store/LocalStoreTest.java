package org.ysteron.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class LocalStoreTest extends ObjectStoreContract {
  @TempDir Path directory;

  @Override
  ObjectStore open() {
    ObjectStore store = new LocalStore(directory.resolve("store"));
    store.makeRoot();
    return store;
  }

  @Test
  void aRootThatIsGoneIsNeverMadeAgain() throws IOException {
    ObjectStore store = open();
    store.createIfAbsent("a/b", new byte[1]);
    Files.move(directory.resolve("store"), directory.resolve("moved"));
    assertThatThrownBy(() -> store.createIfAbsent("a/c", new byte[1]))
        .isInstanceOf(NotAppliedException.class)
        .hasMessageContaining("the directory is gone");
    assertThatThrownBy(() -> store.put("a/d")).hasMessageContaining("the directory is gone");
    assertThat(directory.resolve("store")).doesNotExist();
  }

  @Test
  void itsTimeIsThatOfItsFiles() throws IOException {
    ObjectStore store = open();
    Instant first = store.time();
    assertThat(first).isBetween(Instant.now().minusSeconds(5), Instant.now().plusSeconds(5));
    store.createIfAbsent("a/b", new byte[1]);
    assertThat(store.time()).isAfterOrEqualTo(first.minusSeconds(1));
    assertThat(store.unfinished("")).isEmpty();
  }

  @Test
  void aStoreThatIgnoresTheConditionIsRefused() {
    ObjectStore careless = new CarelessStore();
    assertThatThrownBy(() -> CreationRace.run(careless))
        .isInstanceOf(StoreException.class)
        .hasMessageContaining("does not create objects atomically");
  }

  @Test
  void whatAWriterLeftHalfWrittenIsNotListed() throws IOException {
    Path store = Files.createDirectories(directory.resolve("store/data"));
    Files.writeString(store.resolve(".writing-1234"), "half");
    assertThat(open().list("data", "", 10)).isEmpty();
  }

  @Test
  void aPathBlockedByAFileIsAClearError() throws IOException {
    Files.createDirectories(directory.resolve("store"));
    Files.writeString(directory.resolve("store/ledger"), "not a directory");
    assertThatThrownBy(() -> open().createIfAbsent("ledger/000", new byte[1]))
        .isInstanceOf(NotAppliedException.class)
        .hasMessageContaining("Could not create ledger/000");
  }

  /** Overwrites and says that it created. */
  private static final class CarelessStore extends ForwardingStore {
    CarelessStore() {
      super(new MemoryStore());
    }

    @Override
    public synchronized boolean createIfAbsent(String name, byte[] content) {
      delete(name);
      return super.createIfAbsent(name, content);
    }
  }
}
