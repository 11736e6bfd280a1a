package org.ysteron.internal.changes;

import java.math.BigDecimal;
import java.math.MathContext;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.temporal.Temporal;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.ChangeSummary;
import org.ysteron.internal.rows.Differing;
import org.ysteron.internal.table.FileTexts;

/** Sums up the rows in which two versions differ. For one thread. */
public final class ChangeTotals {
  private final FileTexts earlier;
  private final FileTexts later;
  private final List<Column> columns = new ArrayList<>();
  private final Map<Long, String> partitions = new HashMap<>();
  private final SortedMap<String, ChangeCounts> byPartition = new TreeMap<>();
  private ChangeCounts counts = ChangeCounts.NOTHING;

  /** Of versions whose files are told about. */
  public ChangeTotals(Comparison comparison, FileTexts earlier, FileTexts later) {
    this.earlier = earlier;
    this.later = later;
    comparison.shown().columns().forEach(field -> columns.add(new Column(field)));
  }

  /** Reads all rows of a source. */
  public ChangeSummary of(ChangedRows rows) {
    rows.each(this::add);
    List<ChangeSummary.OfColumn> told = new ArrayList<>();
    columns.forEach(column -> column.told().ifPresent(told::add));
    return new ChangeSummary(
        new ChangeCounts(counts.inserted(), counts.deleted(), counts.updated(), rows.same(), true),
        byPartition,
        told);
  }

  private void add(ChangedRows.Changed changed) {
    ChangeBatch batch = changed.batch();
    counts = counts.plus(batch.kind(), batch.size());
    boolean isEarlier = batch.kind() == ChangeKind.DELETED;
    String partition =
        partitions.computeIfAbsent(
            changed.file().numbers().number(),
            number -> (isEarlier ? earlier : later).partition(changed.file()));
    if (!partition.isEmpty()) {
      byPartition.merge(
          partition,
          ChangeCounts.NOTHING.plus(batch.kind(), batch.size()),
          (before, more) -> before.plus(batch.kind(), batch.size()));
    }
    if (batch.kind() == ChangeKind.UPDATED) {
      for (int i = 0; i < columns.size(); i++) {
        columns.get(i).add(batch.before(), batch.after(), i);
      }
    }
  }

  /** What differs in one column of updated rows. */
  private static final class Column {
    private final Field field;
    private final boolean isNumber;
    private long differing;
    private long toNull;
    private long fromNull;
    private long numbers;
    private BigDecimal before = BigDecimal.ZERO;
    private BigDecimal after = BigDecimal.ZERO;
    private BigDecimal least;
    private BigDecimal greatest;
    private long times;
    private Duration earliest;
    private Duration latest;

    Column(Field field) {
      this.field = field;
      this.isNumber = isNumber(field.type());
    }

    private static boolean isNumber(Type type) {
      return type instanceof Type.Decimal
          || type.equals(Types.INTEGER)
          || type.equals(Types.BIGINT)
          || type.equals(Types.REAL)
          || type.equals(Types.DOUBLE);
    }

    void add(Batch old, Batch now, int column) {
      Vector a = old.vectors().get(column);
      Vector b = now.vectors().get(column);
      for (int i = 0; i < old.size(); i++) {
        if (Differing.differ(a, i, b, i)) {
          differing++;
          if (a.isNull(i)) {
            fromNull++;
          } else if (b.isNull(i)) {
            toNull++;
          } else if (isNumber) {
            add(number(a.present(i)), number(b.present(i)));
          } else {
            moved(a.present(i), b.present(i)).ifPresent(this::add);
          }
        }
      }
    }

    /** How far a date or a time moved; empty for other values. */
    private static Optional<Duration> moved(Object old, Object now) {
      if (old instanceof LocalDate a && now instanceof LocalDate b) {
        return Optional.of(Duration.between(a.atStartOfDay(), b.atStartOfDay()));
      }
      boolean isTime =
          old instanceof Instant || old instanceof LocalDateTime || old instanceof LocalTime;
      return isTime
          ? Optional.of(Duration.between((Temporal) old, (Temporal) now))
          : Optional.empty();
    }

    private void add(Duration moved) {
      times++;
      earliest = earliest == null || moved.compareTo(earliest) < 0 ? moved : earliest;
      latest = latest == null || moved.compareTo(latest) > 0 ? moved : latest;
    }

    /** A number; empty for NaN and infinity. */
    private static Optional<BigDecimal> number(Object value) {
      if (value instanceof BigDecimal decimal) {
        return Optional.of(decimal);
      }
      if (value instanceof Double || value instanceof Float) {
        double number = ((Number) value).doubleValue();
        return Double.isFinite(number)
            ? Optional.of(new BigDecimal(value.toString()))
            : Optional.empty();
      }
      return Optional.of(BigDecimal.valueOf(((Number) value).longValue()));
    }

    private void add(Optional<BigDecimal> old, Optional<BigDecimal> now) {
      if (old.isEmpty() || now.isEmpty()) {
        return;
      }
      numbers++;
      before = before.add(old.get());
      after = after.add(now.get());
      BigDecimal moved = now.get().subtract(old.get());
      least = least == null ? moved : least.min(moved);
      greatest = greatest == null ? moved : greatest.max(moved);
    }

    Optional<ChangeSummary.OfColumn> told() {
      return differing == 0
          ? Optional.empty()
          : Optional.of(
              new ChangeSummary.OfColumn(
                  field.name(),
                  differing,
                  toNull,
                  fromNull,
                  numbers == 0 ? Optional.empty() : moved(),
                  times == 0
                      ? Optional.empty()
                      : Optional.of(new ChangeSummary.Times(times, earliest, latest))));
    }

    private Optional<ChangeSummary.Numbers> moved() {
      BigDecimal rows = BigDecimal.valueOf(numbers);
      return Optional.of(
          new ChangeSummary.Numbers(
              numbers,
              before,
              after,
              before.divide(rows, MathContext.DECIMAL64),
              after.divide(rows, MathContext.DECIMAL64),
              least,
              greatest));
    }
  }
}
