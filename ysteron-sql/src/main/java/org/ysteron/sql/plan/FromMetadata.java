package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.TableView;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Column;
import org.ysteron.report.ValueRange;
import org.ysteron.sql.aggregate.Aggregate;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.run.RowsStep;
import org.ysteron.sql.run.ScanStep;

/** Answers aggregates of whole tables by their metadata, so that no data is read. */
final class FromMetadata {
  private FromMetadata() {}

  /** The one row of aggregates without keys, when metadata tells all of them. */
  static Optional<Stage> of(List<Aggregate> calls, Stage input) {
    if (!(input.step() instanceof ScanStep scan)
        || scan.filtered()
        || scan.noted()
        || calls.isEmpty()) {
      return Optional.empty();
    }
    TableView table = scan.table();
    List<Type> types = new ArrayList<>();
    List<Vector> vectors = new ArrayList<>();
    for (Aggregate call : calls) {
      Optional<Told> told = told(call, table);
      if (told.isEmpty()) {
        return Optional.empty();
      }
      types.add(call.type());
      VectorBuilder builder = new VectorBuilder(call.type(), 1);
      builder.add(told.get().value);
      vectors.add(builder.buildLast());
    }
    Schema columns = Made.schema(types);
    Batch row = new Batch(columns.struct(), 1, vectors);
    return Optional.of(Stage.of(new RowsStep(row, columns, "of metadata of " + table.name())));
  }

  private record Told(@Nullable Object value) {}

  private static Optional<Told> told(Aggregate call, TableView table) {
    if (call.where().isPresent()) {
      return Optional.empty();
    }
    boolean counts = call.function() == Aggregate.Function.COUNT && !call.isDistinct();
    long rows = table.record().totals().rows();
    if (counts && call.of().isEmpty()) {
      return Optional.of(new Told(rows));
    }
    boolean isExtreme =
        call.function() == Aggregate.Function.MIN || call.function() == Aggregate.Function.MAX;
    if (!(counts || isExtreme)
        || call.of().size() != 1
        || !(call.of().get(0) instanceof Column column)) {
      return Optional.empty();
    }
    Optional<ValueRange> range = table.exactRange(column.path());
    if (counts) {
      return range.map(of -> new Told(rows - of.nulls().orElseThrow()));
    }
    boolean least = call.function() == Aggregate.Function.MIN;
    return range.map(of -> new Told((least ? of.min() : of.max()).orElse(null)));
  }
}
