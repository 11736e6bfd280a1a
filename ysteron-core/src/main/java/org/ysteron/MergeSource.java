package org.ysteron;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Iterator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.drift.SourceRows;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.merge.RowSpool;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.rows.RecordBinding;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;
import org.ysteron.option.WriteRules;
import org.ysteron.progress.Progress;

/**
 * The source rows of a merge. Columns are matched to those of the table by name, and their values
 * must fit; a source may have more columns for use in clauses. The source is read before anything
 * is changed: once, unless it is a table of the lake (see {@link #scan}).
 */
public abstract class MergeSource {
  MergeSource() {}

  /** Hands all rows to a sink. */
  @FunctionalInterface
  public interface Feed {
    void to(RowSink target);
  }

  abstract List<Field> columns(Schema table);

  abstract void feed(List<Field> columns, Consumer<@Nullable Object[]> target);

  /** The source as a transaction sees it; empty when it is the same for all. */
  Optional<Function<TableChange, MergeSource>> tracked(LakeCore core) {
    return Optional.empty();
  }

  /**
   * Rows of a scan, of any table at any version.
   *
   * <p>When the scan was started on a {@link Table} of the same lake, the merge reads that table on
   * the state that it runs on, the changes of its own transaction included, and reads it again when
   * it runs again; like everything that a transaction reads, the rows must not have changed at the
   * commit. A scan of a pinned version ({@link Table#now()}, {@link Table#at}) stays as it is.
   */
  public static MergeSource scan(Scan scan) {
    return new MergeSource() {
      @Override
      Optional<Function<TableChange, MergeSource>> tracked(LakeCore core) {
        return scan.follows(core)
            ? Optional.of(change -> scan(scan.within(change)))
            : Optional.empty();
      }

      @Override
      List<Field> columns(Schema table) {
        return scan.schema().columns();
      }

      @Override
      void feed(List<Field> columns, Consumer<@Nullable Object[]> target) {
        try (Results<Batch> batches = scan.batches()) {
          batches.forEach(batch -> batch.rows().forEach(row -> target.accept(row.values())));
        }
      }
    };
  }

  /** Rows by name; all have the columns of the first one. */
  public static MergeSource rows(Iterable<Row> rows) {
    return new MergeSource() {
      @Override
      List<Field> columns(Schema table) {
        Iterator<Row> first = rows.iterator();
        return first.hasNext() ? first.next().fields() : table.columns();
      }

      @Override
      void feed(List<Field> columns, Consumer<@Nullable Object[]> target) {
        for (Row row : rows) {
          Object[] values = new Object[columns.size()];
          for (int c = 0; c < values.length; c++) {
            values[c] = row.get(columns.get(c).name());
          }
          target.accept(values);
        }
      }
    };
  }

  /** Records, whose components are columns of the table by name. */
  public static <R extends Record> MergeSource records(Class<R> type, Iterable<R> records) {
    return new MergeSource() {
      @Override
      List<Field> columns(Schema table) {
        Set<String> names = new TreeSet<>();
        Arrays.stream(type.getRecordComponents()).forEach(c -> names.add(c.getName()));
        names.forEach(name -> table.resolve(Schema.path(List.of(name))));
        return table.columns().stream().filter(field -> names.contains(field.name())).toList();
      }

      @Override
      void feed(List<Field> columns, Consumer<@Nullable Object[]> target) {
        RecordBinding<R> binding = RecordBinding.forReading(type, new Type.Struct(columns));
        records.forEach(record -> target.accept(binding.values(record)));
      }
    };
  }

  /** Rows by column; all batches have the same ones. */
  public static MergeSource batches(Type.Struct columns, Iterable<Batch> batches) {
    return new MergeSource() {
      @Override
      List<Field> columns(Schema table) {
        return columns.fields();
      }

      @Override
      void feed(List<Field> fields, Consumer<@Nullable Object[]> target) {
        batches.forEach(batch -> batch.rows().forEach(row -> target.accept(row.values())));
      }
    };
  }

  /** Rows of some columns of the table; values are given in the order of the names. */
  public static MergeSource values(List<String> names, Feed feed) {
    return new MergeSource() {
      @Override
      List<Field> columns(Schema table) {
        List<Field> fields = new ArrayList<>();
        for (String name : names) {
          fields.add(table.resolve(Schema.path(List.of(name))).get(0));
        }
        return fields;
      }

      @Override
      void feed(List<Field> columns, Consumer<@Nullable Object[]> target) {
        feed.to(SourceSink.ofValues(columns, target));
      }
    };
  }

  /**
   * Rows by names, which need not have the same ones. What a row lacks that others have is null, or
   * the default where null is not allowed; what none has is no column of the source.
   */
  public static MergeSource named(Feed feed) {
    return new MergeSource() {
      @Override
      boolean isNamed() {
        return true;
      }

      @Override
      List<Field> columns(Schema table) {
        return table.columns();
      }

      @Override
      void feed(List<Field> columns, Consumer<@Nullable Object[]> target) {
        throw new IllegalStateException("its columns are not known before it is read");
      }

      @Override
      void feedNamed(Schema table, Defaults defaults, Consumer<Object> target) {
        feed.to(SourceSink.named(table.columns(), target));
      }
    };
  }

  /** Whether the columns are not known before all rows are read. */
  boolean isNamed() {
    return false;
  }

  /** Hands on all rows by name. */
  void feedNamed(Schema table, Defaults defaults, Consumer<Object> target) {
    List<Field> columns = columns(table);
    Type.Struct type = new Type.Struct(columns);
    feed(
        columns,
        values -> {
          if (values.length != columns.size()) {
            accepted(values, columns, defaults, 0); // says so
          }
          target.accept(Row.of(type, defaults.in(values, columns)));
        });
  }

  /** Reads all rows as they are, by some rules; the caller closes them. */
  SourceRows rows(VersionPage table, WriteRules rules, ReadContext context, Defaults defaults) {
    SourceRows rows =
        new SourceRows(
            table.form(), table.settings(), rules, context.workers().means().temporary());
    Watch.Step step = context.watch().step("read source rows", Progress.Unit.ROWS);
    try {
      feedNamed(
          table.schema(),
          defaults,
          row -> {
            rows.add(row);
            step.add(1);
          });
      return rows;
    } catch (RuntimeException | Error e) {
      rows.close();
      throw e;
    }
  }

  /** Reads all rows; the caller closes the spool. */
  RowSpool spool(Schema table, Workers workers, Watch watch, Defaults defaults) {
    List<Field> columns = new ArrayList<>();
    for (Field column : columns(table)) {
      int at = table.indexOf(column.name());
      columns.add(at < 0 ? column : table.columns().get(at));
    }
    RowSpool spool = new RowSpool(columns, workers, watch);
    try {
      feed(columns, values -> spool.add(accepted(values, columns, defaults, spool.rows() + 1)));
      return spool.end();
    } catch (RuntimeException | Error e) {
      spool.close();
      throw e;
    }
  }

  private static Object[] accepted(
      Object[] values, List<Field> columns, Defaults defaults, long row) {
    if (values.length != columns.size()) {
      throw RejectedRowException.that(
          row,
          "of the source has %d values for %d columns".formatted(values.length, columns.size()));
    }
    Object[] accepted = new Object[values.length];
    for (int c = 0; c < values.length; c++) {
      Field column = columns.get(c);
      try {
        Object value = defaults.of(values[c], column);
        accepted[c] = value == null ? null : Values.accept(value, column.type());
      } catch (InvalidInputException e) {
        throw RejectedRowException.ofSource(row, column.name(), column.type(), e.getMessage(), e);
      }
    }
    return accepted;
  }
}
