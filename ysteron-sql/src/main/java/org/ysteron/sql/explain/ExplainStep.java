package org.ysteron.sql.explain;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Measures;
import org.ysteron.sql.keep.RowsBuilder;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.ScanStep;
import org.ysteron.sql.run.Slices;
import org.ysteron.sql.text.SqlColumns;

/**
 * The steps of a query as rows, instead of its own.
 *
 * @param of the query
 * @param expected about how many rows some of its steps make
 * @param measured whether the query runs first, so that it is told what the steps did
 */
public record ExplainStep(
    Step of, IdentityHashMap<Step, Double> expected, boolean measured, Schema columns)
    implements Step {
  private static final Schema PLAIN = SqlColumns.parse("expected_rows BIGINT, step VARCHAR");
  private static final Schema MEASURED =
      SqlColumns.parse(
          "expected_rows BIGINT, row_count BIGINT, milliseconds DECIMAL(18, 1),"
              + " kept_bytes BIGINT, file_bytes BIGINT, step VARCHAR");
  private static final int NANO_DIGITS = 6;

  /** Explains a query. */
  public static ExplainStep of(Step of, IdentityHashMap<Step, Double> expected, boolean measured) {
    return new ExplainStep(of, expected, measured, measured ? MEASURED : PLAIN);
  }

  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Slices(() -> rows(running), columns);
  }

  private Batch rows(Running running) {
    Measures measures = null;
    if (measured) {
      measures = new Measures(of);
      of.open(running.measuredBy(measures)).each(batch -> {});
    }
    List<PlanText.Line> lines = new PlanText().lines(of);
    RowsBuilder rows = new RowsBuilder(columns, lines.size());
    for (PlanText.Line line : lines) {
      rows.add(row(numbers(line, measures), line.text()));
      line.details().forEach(detail -> rows.add(row(List.of(), detail)));
    }
    return rows.build();
  }

  /** The numbers of a step, or none, and a text. */
  private @Nullable Object[] row(List<@Nullable Object> numbers, String text) {
    @Nullable Object[] row = new Object[columns.columns().size()];
    for (int c = 0; c < numbers.size(); c++) {
      row[c] = numbers.get(c);
    }
    row[row.length - 1] = text;
    return row;
  }

  private List<@Nullable Object> numbers(PlanText.Line line, @Nullable Measures measures) {
    List<@Nullable Object> values = new ArrayList<>();
    Double rows =
        line.step() instanceof ScanStep scan && scan.expected() >= 0
            ? Double.valueOf(scan.expected())
            : expected.get(line.step());
    values.add(rows == null ? null : Long.valueOf(Math.round(rows)));
    Measures.Measure measure = measures == null ? null : measures.of(line.step());
    if (measure != null) {
      values.add(measure.rows());
      values.add(milliseconds(line.step(), measures));
      values.add(measure.mostKept());
      values.add(measure.spilled());
    }
    return values;
  }

  /** How long a step took without those below it. */
  private static BigDecimal milliseconds(Step step, Measures measures) {
    long nanos = nanos(step, measures);
    for (Step input : step.inputs()) {
      nanos -= nanos(input, measures);
    }
    return BigDecimal.valueOf(Math.max(0, nanos), NANO_DIGITS).setScale(1, RoundingMode.HALF_UP);
  }

  private static long nanos(Step step, Measures measures) {
    Measures.Measure measure = measures.of(step);
    return measure == null ? 0 : measure.nanos();
  }

  /** The steps of a query as text, a line each. */
  public static String text(Step of) {
    StringBuilder text = new StringBuilder();
    for (PlanText.Line line : new PlanText().lines(of)) {
      text.append(line.text()).append('\n');
      line.details().forEach(detail -> text.append(detail).append('\n'));
    }
    return text.toString();
  }
}
