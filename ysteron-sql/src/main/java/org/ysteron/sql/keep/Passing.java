package org.ysteron.sql.keep;

import java.util.function.UnaryOperator;

/**
 * A step that makes rows of each batch of its first input alone, so that several threads can do its
 * work, each for some of the batches.
 */
public interface Passing extends Step {

  /** The same step with other rows as its first input. */
  Step over(Step rows);

  /** Whether several threads can do its work. */
  default boolean isShared() {
    return true;
  }

  /** Does what has to be done once before rows pass; for {@link #prepare} alone. */
  default Ready ready(Running running) {
    return new Ready(inputs().get(0), true, this::over, () -> {});
  }

  /** Does what has to be done once before rows pass, which is measured if wanted. */
  default Ready prepare(Running running) {
    return Watched.measured(this, running, this::ready);
  }

  /**
   * A step that rows can pass.
   *
   * @param input the rows that have to pass
   * @param isShared whether several threads can do the work, after all
   * @param over the step with some of these rows
   * @param release gives its memory back
   */
  record Ready(Step input, boolean isShared, UnaryOperator<Step> over, Runnable release)
      implements AutoCloseable {
    @Override
    public void close() {
      release.run();
    }
  }
}
