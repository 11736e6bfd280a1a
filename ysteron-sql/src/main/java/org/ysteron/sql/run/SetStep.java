package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.aggregate.Accumulator;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Parted;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Spill;
import org.ysteron.sql.keep.Step;

/**
 * INTERSECT and EXCEPT. A null is equal to another.
 *
 * @param isIntersect whether rows must be in the right input; else they must not
 * @param all whether each row counts as often as it is there, and takes one partner away
 * @param columns of both inputs, under the names of the result
 */
public record SetStep(Step left, Step right, boolean isIntersect, boolean all, Schema columns)
    implements Step {
  private static final int BATCH = 8192;

  @Override
  public List<Step> inputs() {
    return List.of(left, right);
  }

  @Override
  public Source<SelectedBatch> begin(Running whole) {
    Running running = whole.keeping("a set of rows");
    return new Source<>() {
      private Keys keys;
      private long[] counts = {};
      private int next;
      private Parted lefts;
      private Parted rights;
      private Source<SelectedBatch> parted;

      @Override
      public Optional<SelectedBatch> next() {
        if (keys == null && parted == null) {
          read();
        }
        if (parted != null) {
          Optional<SelectedBatch> batch = parted.next();
          if (batch.isEmpty()) {
            close();
          }
          return batch;
        }
        while (next < keys.count()) {
          int count = Math.min(BATCH, keys.count() - next);
          Optional<SelectedBatch> batch = batch(next, count);
          next += count;
          if (batch.isPresent()) {
            return batch;
          }
        }
        close();
        return Optional.empty();
      }

      private void read() {
        List<Type> types = columns.columns().stream().map(Field::type).toList();
        keys = new Keys(types, running);
        long[][] sides = new long[2][0];
        int[] numbers = {};
        for (int side = 0; side < 2; side++) {
          Step step = side == 0 ? left : right;
          keys.of(Keys.columns(step.columns()), step.columns(), running);
          try (Source<SelectedBatch> rows = step.open(running)) {
            for (Optional<SelectedBatch> one = rows.next(); one.isPresent(); one = rows.next()) {
              int count = one.get().count();
              numbers = numbers.length < count ? new int[count] : numbers;
              keys.find(one.get(), numbers, side == 0, true);
              if (sides[side].length < keys.count()) {
                int more = Accumulator.longer(sides[side].length, keys.count());
                running.take(8L * (more - sides[side].length));
                sides[side] = Arrays.copyOf(sides[side], more);
              }
              for (int i = 0; i < count; i++) {
                if (numbers[i] >= 0) {
                  sides[side][numbers[i]]++;
                }
              }
              if (running.isTight(running.own())) {
                part();
                return;
              }
            }
          }
        }
        counts = new long[keys.count()];
        for (int i = 0; i < counts.length; i++) {
          counts[i] = kept(sides[0][i], i < sides[1].length ? sides[1][i] : 0);
        }
      }

      /** Puts the rows of both inputs away by their values; they are read once more for that. */
      private void part() {
        keys = null;
        running.release();
        lefts = putAway(left);
        rights = putAway(right);
        parted = Chained.of(Spill.PARTS, this::ofPart);
      }

      private Parted putAway(Step step) {
        Parted rows = new Parted(step.columns(), Keys.columns(step.columns()), running);
        try {
          step.open(running).each(rows::add);
        } catch (RuntimeException e) {
          rows.close();
          throw e;
        }
        return rows;
      }

      private Source<SelectedBatch> ofPart(int part) {
        return new SetStep(lefts.part(part), rights.part(part), isIntersect, all, columns)
            .open(running.deeper());
      }

      private Optional<SelectedBatch> batch(int from, int count) {
        List<Vector> vectors = new ArrayList<>();
        for (int c = 0; c < columns.columns().size(); c++) {
          vectors.add(keys.part(c, from, count));
        }
        int total = 0;
        for (int i = from; i < from + count; i++) {
          total = Math.addExact(total, Math.toIntExact(counts[i]));
        }
        int[] rows = new int[total];
        int at = 0;
        for (int i = 0; i < count; i++) {
          for (long n = counts[from + i]; n > 0; n--) {
            rows[at++] = i;
          }
        }
        Batch found = Gather.rows(new Batch(columns.struct(), count, vectors), rows);
        return total == 0 ? Optional.empty() : Optional.of(new SelectedBatch(found, null, total));
      }

      @Override
      public void close() {
        running.release();
        if (parted != null) {
          parted.close();
        }
        if (lefts != null) {
          lefts.close();
        }
        if (rights != null) {
          rights.close();
        }
      }
    };
  }

  /** How often a row is in the result that is so often in the inputs. */
  private long kept(long lefts, long rights) {
    if (all) {
      return isIntersect ? Math.min(lefts, rights) : Math.max(0, lefts - rights);
    }
    return lefts > 0 && (rights > 0) == isIntersect ? 1 : 0;
  }
}
