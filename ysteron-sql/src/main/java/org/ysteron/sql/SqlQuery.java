package org.ysteron.sql;

import java.nio.file.Path;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Query;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.compare.ParquetExport;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.RecordBinding;
import org.ysteron.internal.work.Means;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;
import org.ysteron.option.LakeOptions;
import org.ysteron.sql.explain.ExplainStep;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.plan.PlannedQuery;

/** A query that was planned, and what it is run with. For one thread. */
public final class SqlQuery implements Query {
  private final PlannedQuery planned;
  private final Instant now;
  private final long mostBytes;
  private final Workers workers;
  private final Watch watch;
  private final boolean pushes;
  private final Running.Threads threads;

  private SqlQuery(
      PlannedQuery planned,
      Instant now,
      long mostBytes,
      Workers workers,
      Watch watch,
      boolean pushes,
      Running.Threads threads) {
    this.planned = planned;
    this.threads = threads;
    this.pushes = pushes;
    this.watch = watch;
    this.workers = workers;
    this.now = now;
    this.mostBytes = mostBytes;
  }

  /**
   * A query on a state of a lake.
   *
   * @param schema the namespace of tables whose names are given alone
   * @param parameters what stands for the question marks, in their order
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  public static SqlQuery of(
      LakeView lake, Optional<String> schema, String query, List<@Nullable Object> parameters) {
    return of(lake, schema, query, parameters, true);
  }

  /** {@code pushes}: whether scans and metadata do what they can of the work of other steps. */
  static SqlQuery of(
      LakeView lake,
      Optional<String> schema,
      String query,
      List<@Nullable Object> parameters,
      boolean pushes) {
    Instant now = Instant.now().truncatedTo(ChronoUnit.MICROS);
    return of(lake, PlannedQuery.of(lake, schema, query, parameters, now, pushes), now, pushes);
  }

  /** A query that was planned on a state of a lake at a time. */
  static SqlQuery of(LakeView lake, PlannedQuery planned, Instant now, boolean pushes) {
    LakeOptions options = lake.options();
    return new SqlQuery(
        planned,
        now,
        memory(options),
        workers(options),
        new Watch(lake.monitor()),
        pushes,
        pushes
            ? Running.Threads.upTo(options.threads().orElseGet(Means::standardThreads))
            : Running.Threads.ONE);
  }

  private static long memory(LakeOptions options) {
    return options.memory().orElseGet(Means::standardMemory);
  }

  /** What writes temporary files. */
  private static Workers workers(LakeOptions options) {
    Path temporary = options.temporaryDirectory().orElseGet(Means::standardTemporary);
    return new Workers(new Means(0, memory(options), temporary));
  }

  /** Begins a run of a part of another statement, in one thread. */
  static Running running(LakeView lake, Instant now) {
    LakeOptions options = lake.options();
    Watch watch = new Watch(lake.monitor());
    return new Running(now, memory(options), workers(options), watch, true, Running.Threads.ONE);
  }

  @Override
  public SqlQuery within(long bytes) {
    return new SqlQuery(planned, now, bytes, workers, watch, pushes, threads);
  }

  /** The same query by other threads. */
  SqlQuery by(Running.Threads others) {
    return new SqlQuery(planned, now, mostBytes, workers, watch, pushes, others);
  }

  @Override
  public List<String> labels() {
    return planned.labels();
  }

  @Override
  public Schema schema() {
    return planned.step().columns();
  }

  @Override
  public String plan() {
    return ExplainStep.text(planned.step());
  }

  private Source<SelectedBatch> open() {
    return planned.step().open(new Running(now, mostBytes, workers, watch, pushes, threads));
  }

  @Override
  public Results<Batch> batches() {
    Source<SelectedBatch> rows = open();
    return new Results<>(() -> next(rows).map(Selected::dense).orElse(null), rows::close);
  }

  private static Optional<SelectedBatch> next(Source<SelectedBatch> rows) {
    try {
      return rows.next();
    } catch (ComputeException e) {
      rows.close();
      throw new InvalidInputException(
          "The query cannot be computed: %s.".formatted(e.getMessage()), e);
    } catch (RuntimeException e) {
      rows.close();
      throw e;
    }
  }

  @Override
  public Results<Row> rows() {
    Results<Batch> batches = batches();
    RowsOf rows = new RowsOf(batches);
    return new Results<>(rows::next, batches::close);
  }

  @Override
  public long writeParquet(Path file) {
    Set<String> taken = new HashSet<>();
    List<Field> columns = new ArrayList<>();
    for (int c = 0; c < labels().size(); c++) {
      String label = labels().get(c);
      String name = label;
      for (int number = 2; !taken.add(name); number++) {
        name = label + "_" + number;
      }
      columns.add(Field.of(name, schema().columns().get(c).type()));
    }
    Schema named = Schema.ofNamesByCase(columns);
    Results<Batch> batches = batches();
    Results<Batch> renamed =
        new Results<>(
            () ->
                batches
                    .next()
                    .map(batch -> new Batch(named.struct(), batch.size(), batch.vectors()))
                    .orElse(null),
            batches::close);
    return ParquetExport.write(file, named, renamed, workers);
  }

  @Override
  public <R extends Record> Results<R> records(Class<R> type) {
    RecordBinding<R> binding = RecordBinding.forReading(type, schema().struct());
    Results<Batch> batches = batches();
    RowsOf rows = new RowsOf(batches);
    return new Results<>(
        () -> {
          Row row = rows.next();
          return row == null ? null : binding.toRecord(row);
        },
        batches::close);
  }

  /** The rows of batches, one after the other. */
  private static final class RowsOf {
    private final Results<Batch> batches;
    private @Nullable Batch batch;
    private int next;

    RowsOf(Results<Batch> batches) {
      this.batches = batches;
    }

    @Nullable Row next() {
      while (batch == null || next == batch.size()) {
        batch = batches.next().orElse(null);
        next = 0;
        if (batch == null) {
          return null;
        }
      }
      return batch.row(next++);
    }
  }
}
