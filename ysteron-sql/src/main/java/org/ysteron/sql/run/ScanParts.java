package org.ysteron.sql.run;

import java.util.List;
import org.ysteron.sql.keep.Step;

/** Steps that share the files of a scan, each for a thread of its own. */
final class ScanParts {
  /** Fewer rows are read by one thread. */
  private static final long LEAST_ROWS = 100_000;

  private ScanParts() {}

  /** The same rows in parts, each to be opened once; none when they do not come from a scan. */
  static List<Step> of(Step step, int count) {
    if (step instanceof ProjectStep project) {
      return of(project.input(), count).stream()
          .map(part -> (Step) new ProjectStep(part, project.expressions(), project.columns()))
          .toList();
    }
    if (step instanceof FilterStep filter) {
      return of(filter.input(), count).stream()
          .map(part -> (Step) new FilterStep(part, filter.condition()))
          .toList();
    }
    if (step instanceof ScanStep scan
        && !scan.counted()
        && scan.table().record().totals().rows() >= LEAST_ROWS) {
      return scan.scan().selectedBatches(count).stream()
          .map(part -> (Step) new OnceStep(ScanStep.rows(part), scan.columns()))
          .toList();
    }
    return List.of();
  }
}
