package org.ysteron.internal.measure;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Comparator;
import java.util.stream.Stream;
import org.apache.datasketches.common.ArrayOfStringsSerDe;
import org.apache.datasketches.frequencies.ErrorType;
import org.apache.datasketches.frequencies.ItemsSketch;
import org.apache.datasketches.frequencies.LongsSketch;
import org.apache.datasketches.hll.HllSketch;
import org.apache.datasketches.kll.KllItemsSketch;
import org.apache.datasketches.kll.KllLongsSketch;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.layout.Curve;
import org.ysteron.internal.table.StatisticsPage;
import org.ysteron.report.TableStatistics;

/**
 * What a column's values are like: how many differ, by HyperLogLog (Flajolet and others, 2007), how
 * they are spread, by KLL (Karnin, Lang, Liberty, 2016), and which are frequent (Misra, Gries,
 * 1982). For one thread.
 *
 * @param <K> as what the sketches hold a value
 */
abstract class ColumnSketch<K> {
  private static final int DISTINCT_BITS = 12;
  private static final int SPREAD = 400;
  private static final int COUNTED = 1024;
  private static final int MOST_FREQUENT = 10;

  /** Texts and bytes are cut there, but where they are counted. */
  private static final int LONGEST = 64;

  private final Field field;
  private final HllSketch distinct = new HllSketch(DISTINCT_BITS);
  private long nulls;

  private ColumnSketch(Field field) {
    this.field = field;
  }

  static ColumnSketch<?> of(Field field) {
    return Ordered.isBytes(field.type()) ? new Bytes(field) : new Numbers(field);
  }

  /** Takes the values of some rows. */
  final void add(Vector vector) {
    for (int row = 0; row < vector.size(); row++) {
      if (vector.isNull(row)) {
        nulls++;
      } else {
        add(vector, row, distinct);
      }
    }
  }

  abstract void add(Vector vector, int row, HllSketch different);

  /** Values at some ranks; none when there are none. */
  abstract Stream<K> spread(double[] ranks);

  /** Those that are surely frequent, the most frequent first. */
  abstract Stream<TableStatistics.Frequent> frequent();

  abstract Object value(K held);

  /** What was found. */
  final StatisticsPage.Column column() {
    double[] ranks = new double[Curve.QUANTILES + 1];
    Arrays.setAll(ranks, i -> (double) i / Curve.QUANTILES);
    return new StatisticsPage.Column(
        field.id(),
        field.type(),
        nulls,
        Math.round(distinct.getEstimate()),
        spread(ranks).map(this::value).toList(),
        frequent().limit(MOST_FREQUENT).toList());
  }

  final TableStatistics.Frequent counted(K held, long least) {
    return new TableStatistics.Frequent(value(held), least);
  }

  Type type() {
    return field.type();
  }

  /** Values that are numbers, or order like them. */
  private static final class Numbers extends ColumnSketch<Long> {
    private final KllLongsSketch spread = KllLongsSketch.newHeapInstance(SPREAD);
    private final LongsSketch counts = new LongsSketch(COUNTED);
    private final boolean isFloating;

    Numbers(Field field) {
      super(field);
      isFloating = Ordered.isFloating(field.type());
    }

    @Override
    void add(Vector vector, int row, HllSketch different) {
      long number = Ordered.number(vector, row);
      different.update(number);
      if (!isFloating || Double.isFinite(Ordered.toDouble(number))) {
        spread.update(number);
        counts.update(number);
      }
    }

    @Override
    Object value(Long number) {
      return isFloating
          ? Values.accept(Ordered.toDouble(number), type())
          : Values.fromLong(number, type());
    }

    @Override
    Stream<Long> spread(double[] ranks) {
      return spread.isEmpty() ? Stream.empty() : Arrays.stream(spread.getQuantiles(ranks)).boxed();
    }

    @Override
    Stream<TableStatistics.Frequent> frequent() {
      return Arrays.stream(counts.getFrequentItems(ErrorType.NO_FALSE_POSITIVES))
          .map(found -> counted(found.getItem(), found.getLowerBound()));
    }
  }

  /** Values that are bytes, each as a text of Latin letters, which orders alike. */
  private static final class Bytes extends ColumnSketch<String> {
    private final KllItemsSketch<String> spread =
        KllItemsSketch.newHeapInstance(
            SPREAD, Comparator.naturalOrder(), new ArrayOfStringsSerDe());
    private final ItemsSketch<String> counts = new ItemsSketch<>(COUNTED);

    Bytes(Field field) {
      super(field);
    }

    @Override
    void add(Vector vector, int row, HllSketch different) {
      Vector.OfBytes bytes = (Vector.OfBytes) vector;
      int start = bytes.starts()[row];
      int length = bytes.lengths()[row];
      String text = new String(bytes.data(), start, length, StandardCharsets.ISO_8859_1);
      different.update(text);
      if (length <= LONGEST) {
        spread.update(text);
        counts.update(text);
      } else {
        int end = start + LONGEST;
        while (end > start && isWithinLetter(bytes.data()[end])) {
          end--;
        }
        int cut = type() instanceof Type.Text ? end - start : LONGEST;
        spread.update(text.substring(0, cut));
      }
    }

    /** Whether a byte of UTF-8 is not the first one of a letter. */
    private static boolean isWithinLetter(byte one) {
      return (one & 0xc0) == 0x80;
    }

    @Override
    Object value(String text) {
      byte[] bytes = text.getBytes(StandardCharsets.ISO_8859_1);
      return Values.fromBytes(bytes, 0, bytes.length, type());
    }

    @Override
    Stream<String> spread(double[] ranks) {
      return spread.isEmpty() ? Stream.empty() : Arrays.stream(spread.getQuantiles(ranks));
    }

    @Override
    Stream<TableStatistics.Frequent> frequent() {
      return Arrays.stream(counts.getFrequentItems(ErrorType.NO_FALSE_POSITIVES))
          .map(found -> counted(found.getItem(), found.getLowerBound()));
    }
  }
}
