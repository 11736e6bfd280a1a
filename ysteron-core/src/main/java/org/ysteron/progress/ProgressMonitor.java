package org.ysteron.progress;

/**
 * Watches long calls and can cancel them. Implementations are thread-safe, return quickly and do
 * not throw: threads of the call use them directly.
 *
 * <pre>{@code
 * AtomicBoolean cancel = new AtomicBoolean();
 * ProgressMonitor monitor = new ProgressMonitor() {
 *   public void progress(Progress progress) {
 *     System.out.println(progress.step() + ": " + progress.done());
 *   }
 *
 *   public boolean isCancelled() {
 *     return cancel.get();
 *   }
 * };
 * lake.watchedBy(monitor).table("tide.readings").compact().run();
 * }</pre>
 */
public interface ProgressMonitor {
  /** Watches nothing and cancels nothing. */
  ProgressMonitor NONE = new ProgressMonitor() {};

  /**
   * Is told how far a call is: at the start of a step, then some ten times a second at most.
   *
   * @param progress of the current step
   */
  default void progress(Progress progress) {}

  /**
   * Whether calls are to end. It is asked before each read and write of data. A call that is
   * cancelled throws a {@link org.ysteron.error.CancelledException}. A commit that has begun to
   * write its ledger entry is finished.
   */
  default boolean isCancelled() {
    return false;
  }
}
