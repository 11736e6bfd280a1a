package org.ysteron.internal.commit;

/**
 * What a commit does. It is applied to the newest state, and again to a newer one when another
 * commit came first, so it must not do anything but fill the staging area.
 */
@FunctionalInterface
public interface Change {

  /**
   * Applies the change.
   *
   * @throws org.ysteron.error.ConflictException when it cannot be combined with what was committed
   *     since it started
   */
  void apply(Staging staging);

  /**
   * Does what the change can do ahead of {@link #apply} on the newest state that is known, so that
   * other commits do not wait for it.
   */
  default void prepare(LakeState newest) {}

  /** Whether {@link #apply} to a state has little to do. */
  default boolean isPrepared(LakeState base) {
    return true;
  }

  /** Waits until all that the commit's entry will refer to is durable. */
  default void awaitDurable() {}

  /** This change, which waits for something before its entry is written. */
  default Change after(Runnable durable) {
    Change change = this;
    return new Change() {
      @Override
      public void apply(Staging staging) {
        change.apply(staging);
      }

      @Override
      public void prepare(LakeState newest) {
        change.prepare(newest);
      }

      @Override
      public boolean isPrepared(LakeState base) {
        return change.isPrepared(base);
      }

      @Override
      public void awaitDurable() {
        durable.run();
      }
    };
  }
}
