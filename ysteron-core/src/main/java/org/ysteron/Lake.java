package org.ysteron;

import java.nio.file.Path;
import java.time.Clock;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
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

  /** Makes a lake in a directory, which is made too. */
  public static Lake create(Path directory) {
    return create(new LocalStore(directory));
  }

  /** Makes a lake in a store that has none, after proving that the store is fit for it. */
  public static Lake create(ObjectStore store) {
    CommitNote note = CommitNote.standard();
    return new Lake(LakeCore.create(store, note, LakeCore.Settings.standard()), note);
  }

  /** Opens the lake in a directory. */
  public static Lake open(Path directory) {
    return open(LocalStore.existing(directory));
  }

  /** Opens the lake in a store. */
  public static Lake open(ObjectStore store) {
    return open(store, Clock.systemUTC(), Runtime.getRuntime().availableProcessors());
  }

  /**
   * Opens the lake in a store.
   *
   * @param clock gives commits their time
   * @param threads how many threads read and write
   */
  public static Lake open(ObjectStore store, Clock clock, int threads) {
    return new Lake(
        LakeCore.open(store, new LakeCore.Settings(clock, threads)), CommitNote.standard());
  }

  /** Makes a lake in a store, with a clock and a number of threads. */
  public static Lake create(ObjectStore store, Clock clock, int threads) {
    CommitNote note = CommitNote.standard();
    return new Lake(LakeCore.create(store, note, new LakeCore.Settings(clock, threads)), note);
  }

  /** Ends the lake's threads and releases its store, for all its handles. */
  @Override
  public void close() {
    core.close();
  }
}
