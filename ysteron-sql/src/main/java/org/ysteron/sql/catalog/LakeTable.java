package org.ysteron.sql.catalog;

import com.google.common.base.Suppliers;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.apache.calcite.schema.Statistic;
import org.apache.calcite.schema.Statistics;
import org.apache.calcite.util.ImmutableBitSet;
import org.ysteron.TableView;
import org.ysteron.TransactionTable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.internal.typing.Numbers;
import org.ysteron.report.TableStatistics;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.ScanStep;

/** One version of a table, as the planner knows it. */
public final class LakeTable extends PlannedTable {
  private static final double FEW_TEXTS = 10;
  private static final double SOME_TEXTS = 200;

  private final TableView view;
  private final Optional<TransactionTable.LocatedRows> located;
  private final Supplier<Optional<TableStatistics>> statistics;

  public LakeTable(TableView view) {
    this(view, Optional.empty());
  }

  /** {@code located}: the rows of a statement that changes them, which tells where they are. */
  public LakeTable(TableView view, Optional<TransactionTable.LocatedRows> located) {
    this.view = view;
    this.located = located;
    this.statistics = Suppliers.memoize(view::statistics);
  }

  TableView view() {
    return view;
  }

  @Override
  public Schema columns() {
    return located
        .map(
            rows ->
                Schema.ofNamesByCase(
                    Stream.concat(
                            view.schema().columns().stream(),
                            Stream.of(rows.file(), rows.position()))
                        .toList()))
        .orElse(view.schema());
  }

  @Override
  public Step step() {
    return located
        .map(rows -> ScanStep.located(view, rows.scan()))
        .orElseGet(() -> ScanStep.of(view));
  }

  @Override
  public double rows() {
    return view.record().totals().rows();
  }

  /** As measured, as its key or its range tells. */
  @Override
  public double distinct(int column) {
    if (column >= view.schema().columns().size()) {
      return rows();
    }
    Field field = view.schema().columns().get(column);
    Optional<Long> measured =
        statistics.get().stream()
            .flatMap(all -> all.columns().stream())
            .filter(one -> one.path().equals(Schema.path(List.of(field.name()))))
            .map(TableStatistics.Column::distinct)
            .findFirst();
    if (measured.isPresent()) {
      return measured.get();
    }
    boolean isKey = view.schema().key().equals(List.of(field.name()));
    double guess = isKey || !field.type().isText() ? rows() : texts(field.type());
    boolean isCounted = Numbers.isWhole(field.type()) || field.type() == Types.DATE;
    return isCounted
        ? range(column).map(of -> Math.min(guess, of[1] - of[0] + 1)).orElse(guess)
        : guess;
  }

  /** A guess: short texts are often codes, and few are there. */
  private double texts(Type type) {
    boolean isCode =
        type instanceof Type.Text text && text.limit().isPresent() && text.limit().getAsInt() <= 2;
    return Math.min(Math.sqrt(rows()), isCode ? FEW_TEXTS : SOME_TEXTS);
  }

  @Override
  public Optional<double[]> range(int column) {
    if (column >= view.schema().columns().size()) {
      return Optional.empty();
    }
    Field field = view.schema().columns().get(column);
    if (!field.type().isNumber() && field.type() != Types.DATE) {
      return Optional.empty();
    }
    return view.range(Schema.path(List.of(field.name())))
        .filter(range -> range.min().isPresent() && range.max().isPresent())
        .map(range -> new double[] {number(range.min().get()), number(range.max().get())});
  }

  private static double number(Object value) {
    return value instanceof LocalDate date ? date.toEpochDay() : ((Number) value).doubleValue();
  }

  @Override
  public Statistic getStatistic() {
    Schema schema = view.schema();
    List<Integer> key = schema.key().stream().map(schema::indexOf).filter(at -> at >= 0).toList();
    double rows = view.record().totals().rows();
    return key.isEmpty()
        ? Statistics.of(rows, List.of())
        : Statistics.of(rows, List.of(ImmutableBitSet.of(key)));
  }
}
