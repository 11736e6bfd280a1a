package org.ysteron.internal.seen;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.layout.Curve;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.internal.read.TableScan;
import org.ysteron.internal.rows.FieldPath;
import org.ysteron.internal.table.StatisticsPage;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.Alteration;

/**
 * Finds the quantiles by which the curve of a layout goes, from a sample of the rows there are
 * (Vitter, Random Sampling with a Reservoir, 1985: algorithm R). They only say where rows go: a
 * table that has changed since is laid out worse, never wrongly.
 */
public final class CurveQuantiles {
  private static final int SAMPLE = 20_000;
  private static final int CHANGED_SHARE = 10;
  private static final int TOLD_APART = 12;
  private static final int LONGEST = 200;
  private static final long SEED = 0x7_1DE5;

  private CurveQuantiles() {}

  /** The alterations, with quantiles for columns of curves that have none. */
  public static List<Alteration> placed(SeenTable change, List<Alteration> changes) {
    List<Alteration> placed = new ArrayList<>();
    for (Alteration alteration : changes) {
      boolean isOpen =
          alteration instanceof Alteration.SetLayout set && !set.plan().curve().isEmpty();
      placed.add(isOpen ? placed(change, (Alteration.SetLayout) alteration) : alteration);
    }
    return placed;
  }

  private static Alteration placed(SeenTable change, Alteration.SetLayout set) {
    VersionPage table = change.draft();
    Layout layout;
    try {
      layout = LayoutText.bind(set.plan(), table.schema());
    } catch (NotFoundException e) {
      return set; // of columns that come with it: there are no values yet
    }
    Curve curve = layout.curve().orElseThrow();
    if (curve.isPlaced()) {
      return set;
    }
    Map<Integer, List<Object>> known = known(change, table);
    boolean knowsAll =
        curve.axes().stream()
            .allMatch(axis -> !axis.quantiles().isEmpty() || known.containsKey(axis.fieldId()));
    List<List<Object>> samples =
        knowsAll
            ? curve.axes().stream()
                .map(axis -> known.getOrDefault(axis.fieldId(), List.of()))
                .toList()
            : samples(change, table, curve);
    List<Curve.Axis> axes = new ArrayList<>();
    for (int i = 0; i < samples.size(); i++) {
      Curve.Axis axis = curve.axes().get(i);
      boolean isOpen = axis.quantiles().isEmpty();
      axes.add(isOpen ? axis.at(quantiles(samples.get(i), axis.type())) : axis);
    }
    Layout found = new Layout(layout.rules(), layout.sort(), Optional.of(new Curve(axes)));
    return new Alteration.SetLayout(found.plan(table.schema()));
  }

  /** The quantiles of columns that were measured when there were about as many rows. */
  private static Map<Integer, List<Object>> known(SeenTable change, VersionPage table) {
    Map<Integer, List<Object>> known = new HashMap<>();
    Optional<StatisticsPage> found = table.statisticsPage(change.context().pages());
    long rows = table.record().totals().rows();
    if (found.isPresent() && Math.abs(found.get().rows() - rows) * CHANGED_SHARE <= rows) {
      for (StatisticsPage.Column column : found.get().columns()) {
        Optional<Type> type = table.schema().field(column.fieldId()).map(Field::type);
        if (type.isPresent() && type.get().equals(column.type())) {
          known.put(column.fieldId(), column.quantiles());
        }
      }
    }
    return known;
  }

  /** Values of the columns of a curve, of some rows; no nulls. */
  private static List<List<Object>> samples(SeenTable change, VersionPage table, Curve curve) {
    change.awaitFiles();
    Schema schema = table.schema();
    String[] paths =
        curve.axes().stream().map(axis -> schema.pathOf(axis.fieldId())).toArray(String[]::new);
    Schema wanted = schema.select(List.of(paths));
    List<FieldPath> fields =
        curve.axes().stream().map(axis -> FieldPath.of(wanted, axis.fieldId())).toList();
    List<Object[]> chosen = new ArrayList<>();
    SplittableRandom random = new SplittableRandom(SEED);
    long[] seen = {0};
    new TableScan(
            change.context(),
            table,
            wanted,
            table.filter(Condition.all(), change.context().pages()),
            Long.MAX_VALUE)
        .each(
            batch -> {
              for (int row = 0; row < batch.size(); row++) {
                long at = ++seen[0] <= SAMPLE ? seen[0] - 1 : random.nextLong(seen[0]);
                if (at == chosen.size()) {
                  chosen.add(values(batch, row, fields));
                } else if (at < SAMPLE) {
                  chosen.set((int) at, values(batch, row, fields));
                }
              }
            });
    List<List<Object>> columns = new ArrayList<>();
    for (int i = 0; i < paths.length; i++) {
      int column = i;
      columns.add(chosen.stream().map(values -> values[column]).filter(v -> v != null).toList());
    }
    return columns;
  }

  private static Object[] values(Batch batch, int row, List<FieldPath> fields) {
    return fields.stream().map(field -> field.in(batch).get(row)).toArray();
  }

  private static List<Object> quantiles(List<Object> sample, Type type) {
    List<Object> sorted = new ArrayList<>(sample);
    sorted.removeIf(
        value -> Ordered.isFloating(type) && !Double.isFinite(((Number) value).doubleValue()));
    sorted.sort((a, b) -> Ordered.compare(a, b, type));
    if (!sorted.isEmpty()) {
      int longest = shared(sorted.get(0), sorted.get(sorted.size() - 1)) + TOLD_APART;
      sorted.replaceAll(value -> cut(value, Math.min(longest, LONGEST)));
    }
    Object least =
        sorted.isEmpty()
            ? null
            : cut(sorted.get(0), shared(sorted.get(0), sorted.get(sorted.size() - 1)) + 1);
    List<Object> quantiles = new ArrayList<>();
    Object last = null;
    for (int q = 0; q <= Curve.QUANTILES && !sorted.isEmpty(); q++) {
      int at = (int) ((long) q * (sorted.size() - 1) / Curve.QUANTILES);
      Object value = sorted.get(at);
      if (last == null || Ordered.compare(last, value, type) < 0) {
        while (at > 0 && Ordered.compare(sorted.get(at), value, type) == 0) {
          at--;
        }
        quantiles.add(last == null ? least : apart(sorted.get(at), value, type));
        last = value;
      }
    }
    return quantiles;
  }

  /**
   * As little of a text or of bytes as tells it from what is before it, or the middle between two
   * numbers: a value of a row is not to stand in a layout, which the row's erasure could not
   * change.
   */
  private static Object apart(Object before, Object value, Type type) {
    Object less = cut(value, shared(before, value) + 1);
    if (before instanceof Long a && value instanceof Long b) {
      less = a + ((b - a) >>> 1) + ((b - a) & 1); // the difference may be larger than a long
    } else if (before instanceof Integer a && value instanceof Integer b) {
      less = (int) (a + ((long) b - a + 1) / 2);
    } else if (before instanceof Double a && value instanceof Double b) {
      less = a + (b - a) / 2;
    }
    return Ordered.compare(before, less, type) < 0 ? less : value;
  }

  /** How much of texts or bytes is the same in all between two of them. */
  private static int shared(Object least, Object greatest) {
    int same = 0;
    if (least instanceof String a && greatest instanceof String b) {
      same = Arrays.mismatch(a.toCharArray(), b.toCharArray());
    } else if (least instanceof byte[] a && greatest instanceof byte[] b) {
      same = Arrays.mismatch(a, b);
    }
    return Math.max(same, 0);
  }

  /** The beginning of texts and bytes, which orders nearly as they do. */
  private static Object cut(Object value, int longest) {
    if (value instanceof String text && text.length() > longest) {
      boolean half = Character.isHighSurrogate(text.charAt(longest - 1));
      return text.substring(0, half ? longest - 1 : longest);
    }
    boolean isLong = value instanceof byte[] bytes && bytes.length > longest;
    return isLong ? Arrays.copyOf((byte[]) value, longest) : value;
  }
}
