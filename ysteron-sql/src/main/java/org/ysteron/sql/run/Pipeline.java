package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.sql.keep.Passing;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * A large scan and the steps that its rows pass, which are ready: joins have read their right rows.
 * Several threads can share its rows.
 */
final class Pipeline implements AutoCloseable {
  private final Step top;
  private final Running running;
  private final List<Passing.Ready> passed = new ArrayList<>();
  private Step below;
  private boolean isShared = true;

  private Pipeline(Step top, Running running) {
    this.top = top;
    this.running = running;
    this.below = top;
  }

  /** The pipeline that ends with a step; none when one thread can read its rows. */
  static Optional<Pipeline> of(Step top, Running running) {
    Step step = top;
    while (step instanceof Passing passing && passing.isShared()) {
      step = passing.inputs().get(0);
    }
    boolean isLarge =
        step instanceof ScanStep scan
            && !scan.counted()
            && running.shares(scan.table().record().totals().rows());
    if (!isLarge) {
      return Optional.empty();
    }
    Pipeline pipeline = new Pipeline(top, running);
    try {
      pipeline.prepare();
      return Optional.of(pipeline);
    } catch (RuntimeException | Error e) {
      pipeline.close();
      throw e;
    }
  }

  private void prepare() {
    while (isShared && below instanceof Passing passing) {
      Passing.Ready ready = passing.prepare(running);
      passed.add(ready);
      below = ready.input();
      isShared = ready.isShared();
    }
  }

  /** All rows, for one thread. */
  Step whole() {
    return over(below);
  }

  /** The rows in parts, each for a thread of its own; none when one thread has to read them. */
  List<Step> parts(int count) {
    if (!isShared || !(below instanceof ScanStep scan)) {
      return List.of();
    }
    return scan.scan().selectedBatches(count).stream()
        .map(part -> over(new OnceStep(ScanStep.rows(part), scan.columns())))
        .toList();
  }

  private Step over(Step rows) {
    Step step = rows;
    for (int i = passed.size() - 1; i >= 0; i--) {
      step = passed.get(i).over().apply(step);
    }
    return running.standingIn(step, top);
  }

  @Override
  public void close() {
    passed.forEach(Passing.Ready::close);
  }
}
