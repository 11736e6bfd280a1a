package org.ysteron;

import java.nio.file.Path;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.option.LakeOptions;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectStore;

/**
 * A lake: a directory, or another store, whose tables commit together. It always shows the newest
 * commit. Thread-safe.
 *
 * <pre>{@code
 * try (Lake lake = Lake.create(Path.of("tidewatch"))) {
 *   Table readings = lake.createTable("tide.readings", schema);
 *   …
 * }
 * }</pre>
 */
public final class Lake extends LakeHandle implements AutoCloseable {
  /** A lake that is open; its core is closed with it. */
  Lake(LakeCore core, CommitNote note) {
    super(core, note);
  }

  /** Creates a lake in a directory, and the directory; with the default options. */
  public static Lake create(Path directory) {
    return create(directory, LakeOptions.DEFAULTS);
  }

  /** Creates a lake in a directory, and the directory. */
  public static Lake create(Path directory, LakeOptions options) {
    return create(new LocalStore(directory), options);
  }

  /** Creates a lake in a store, with the default options. */
  public static Lake create(ObjectStore store) {
    return create(store, LakeOptions.DEFAULTS);
  }

  /**
   * Creates a lake in a store, after a test that the store is fit for it.
   *
   * @throws org.ysteron.error.AlreadyExistsException when the store has a lake
   * @throws org.ysteron.error.UnsupportedLakeException when the store does not keep its promises
   */
  public static Lake create(ObjectStore store, LakeOptions options) {
    CommitNote note = CommitNote.standard();
    return new Lake(LakeCore.create(store, note, new LakeCore.Settings(options)), note);
  }

  /** Opens the lake in a directory, with the default options. */
  public static Lake open(Path directory) {
    return open(directory, LakeOptions.DEFAULTS);
  }

  /** Opens the lake in a directory. */
  public static Lake open(Path directory, LakeOptions options) {
    return open(LocalStore.existing(directory), options);
  }

  /** Opens the lake in a store, with the default options. */
  public static Lake open(ObjectStore store) {
    return open(store, LakeOptions.DEFAULTS);
  }

  /**
   * Opens the lake in a store.
   *
   * @throws org.ysteron.error.NotFoundException when the store has no lake
   * @throws org.ysteron.error.UnsupportedLakeException when a newer program wrote it
   * @throws org.ysteron.error.DamagedException when its ledger is damaged
   */
  public static Lake open(ObjectStore store, LakeOptions options) {
    return new Lake(LakeCore.open(store, new LakeCore.Settings(options)), CommitNote.standard());
  }

  /** Ends the lake's threads and releases its store, for all its handles. */
  @Override
  public void close() {
    core.close();
  }
}
