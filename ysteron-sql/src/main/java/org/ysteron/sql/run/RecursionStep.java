package org.ysteron.sql.run;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Kept;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;

/**
 * WITH RECURSIVE: the rows of a first step, then round after round what a second step makes of the
 * rows of the round before, until there are none.
 *
 * @param key by which the rows of the round before are found
 * @param all whether rows that were there before count again
 * @param name what the query calls it
 */
public record RecursionStep(
    Step first, Step round, Object key, boolean all, String name, Schema columns) implements Step {
  /** A recursion that goes on for longer has no end. */
  public static final int MOST_ROUNDS = 1_000_000;

  @Override
  public List<Step> inputs() {
    return List.of(first, round);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    return new Rounds(running);
  }

  private final class Rounds implements Source<SelectedBatch> {
    private final Running running;
    private final Running ofKeys;
    private final Optional<Keys> known;
    private Kept made;
    private Batch last;
    private Source<SelectedBatch> told;
    private int rounds;
    private int[] numbers = {};

    Rounds(Running running) {
      this.running = running;
      this.ofKeys = running.keeping("the rows of the recursion " + name);
      this.known = all ? Optional.empty() : Optional.of(keys());
    }

    private Keys keys() {
      Keys keys = new Keys(columns.columns().stream().map(Field::type).toList(), ofKeys);
      keys.of(Keys.columns(columns), columns, ofKeys);
      return keys;
    }

    @Override
    public Optional<SelectedBatch> next() {
      while (true) {
        if (told != null) {
          Optional<SelectedBatch> batch = told.next();
          if (batch.isPresent()) {
            return batch;
          }
        }
        if (made != null && made.rows() == 0) {
          close();
          return Optional.empty();
        }
        round();
      }
    }

    private void round() {
      if (rounds++ == MOST_ROUNDS) {
        throw new InvalidInputException(
            "The recursion %s did not end within %,d rounds. Give it a condition under which it makes no more rows, or UNION without ALL."
                .formatted(name, MOST_ROUNDS));
      }
      Kept next = new Kept(columns, running, "a round of the recursion " + name);
      Kept before = made;
      made = next;
      Step step = before == null ? first : round;
      Running of = before == null ? running : running.inRound(key, last);
      step.open(of).each(batch -> next.add(fresh(batch)));
      if (before != null) {
        before.release();
      }
      last = next.all();
      told = new Slices(last, columns);
    }

    /** The rows that were not there before, when those do not count. */
    private SelectedBatch fresh(SelectedBatch batch) {
      Batch same = new Batch(columns.struct(), batch.batch().size(), batch.batch().vectors());
      SelectedBatch rows = new SelectedBatch(same, batch.rows(), batch.count());
      if (known.isEmpty()) {
        return rows;
      }
      int count = rows.count();
      numbers = numbers.length < count ? new int[count] : numbers;
      int before = known.get().count();
      known.get().find(rows, numbers, true, true);
      int[] at = Selected.rows(rows);
      int[] fresh = new int[count];
      int left = 0;
      for (int i = 0; i < count; i++) {
        if (numbers[i] == before) {
          before++;
          fresh[left++] = at[i];
        }
      }
      return new SelectedBatch(same, fresh, left);
    }

    @Override
    public void close() {
      if (made != null) {
        made.release();
      }
      ofKeys.release();
    }
  }
}
