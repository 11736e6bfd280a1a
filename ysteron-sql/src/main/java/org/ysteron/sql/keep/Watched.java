package org.ysteron.sql.keep;

import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;

/** The rows of a step, which end when the query is cancelled, and are counted. For one thread. */
final class Watched implements Source<SelectedBatch> {
  private final Source<SelectedBatch> rows;
  private final Running running;
  private final Measures.@Nullable Measure measure;

  private Watched(Source<SelectedBatch> rows, Running running, Measures.@Nullable Measure measure) {
    this.rows = rows;
    this.running = running;
    this.measure = measure;
  }

  static Source<SelectedBatch> open(Step step, Running running) {
    running.check();
    return new Watched(measured(step, running, step::begin), running, running.measureOf(step));
  }

  /** Does some work of a step, and measures it if wanted. */
  static <T> T measured(Step step, Running running, Function<Running, T> work) {
    Measures.Measure measure = running.measureOf(step);
    if (measure == null) {
      return work.apply(running);
    }
    long began = System.nanoTime();
    try {
      return work.apply(running.measuring(measure));
    } finally {
      measure.ran(System.nanoTime() - began);
    }
  }

  @Override
  public Optional<SelectedBatch> next() {
    running.check();
    if (measure == null) {
      return rows.next();
    }
    long began = System.nanoTime();
    Optional<SelectedBatch> batch = rows.next();
    measure.ran(System.nanoTime() - began);
    measure.gave(batch.map(SelectedBatch::count).orElse(0));
    return batch;
  }

  @Override
  public void close() {
    rows.close();
  }
}
