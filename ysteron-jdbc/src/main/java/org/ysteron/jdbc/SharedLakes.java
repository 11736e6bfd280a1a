package org.ysteron.jdbc;

import java.nio.file.Path;
import java.util.HashMap;
import java.util.Map;
import java.util.OptionalLong;
import org.ysteron.Lake;
import org.ysteron.option.LakeOptions;

/** The lakes that connections of this process have open, each once. Thread-safe. */
final class SharedLakes {
  private static final Map<Key, Shared> OPEN = new HashMap<>();

  private record Key(Path directory, OptionalLong memory) {}

  private static final class Shared {
    private final Lake lake;
    private int users;

    Shared(Lake lake) {
      this.lake = lake;
    }
  }

  private SharedLakes() {}

  /** A lake that one more connection uses. */
  static Use use(String location, OptionalLong memory) {
    Key key = new Key(Path.of(location).toAbsolutePath().normalize(), memory);
    synchronized (OPEN) {
      Shared shared = OPEN.get(key);
      if (shared == null) {
        LakeOptions options =
            memory.isPresent()
                ? LakeOptions.DEFAULTS.memory(memory.getAsLong())
                : LakeOptions.DEFAULTS;
        shared = new Shared(Lake.open(key.directory, options));
        OPEN.put(key, shared);
      }
      shared.users++;
      return new Use(key, shared.lake);
    }
  }

  /** The use of a lake by a connection, to be closed once. */
  static final class Use {
    private final Key key;
    private final Lake lake;

    private Use(Key key, Lake lake) {
      this.key = key;
      this.lake = lake;
    }

    Lake lake() {
      return lake;
    }

    void end() {
      synchronized (OPEN) {
        Shared shared = OPEN.get(key);
        if (shared != null && --shared.users == 0) {
          OPEN.remove(key);
          shared.lake.close();
        }
      }
    }
  }
}
