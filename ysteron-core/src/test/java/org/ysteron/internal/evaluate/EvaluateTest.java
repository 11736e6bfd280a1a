package org.ysteron.internal.evaluate;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Batch;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.TypedTest;
import org.ysteron.internal.typing.Typing;

/** Kernels compute what the slow evaluator does, for random expressions of random rows. */
class EvaluateTest {
  private static final int TRIES = Integer.getInteger("ysteron.expressions", 3000);
  private static final List<String> KINDS =
      List.of("number", "number", "text", "date", "time", "stamp", "instant", "bool", "interval");

  private int typed;
  private int compared;
  private int failing;

  @Test
  void kernelsComputeWhatTheSlowEvaluatorDoes() {
    long first = Long.getLong("ysteron.seed", new Random().nextLong());
    for (long seed = first; seed < first + TRIES; seed++) {
      try {
        check(new Random(seed));
      } catch (Throwable e) {
        throw new AssertionError("seed " + seed, e);
      }
    }
    assertThat(typed).isGreaterThan(TRIES / 3);
    assertThat(compared).isGreaterThan(TRIES * 5);
    if (TRIES > 1000) {
      assertThat(failing).isPositive();
    }
  }

  private void check(Random random) {
    RandomExpressions expressions = new RandomExpressions(random);
    int depth = 1 + random.nextInt(3);
    boolean isCondition = random.nextInt(3) == 0;
    Expression expression =
        isCondition
            ? expressions.condition(depth)
            : expressions.value(KINDS.get(random.nextInt(KINDS.size())), depth);
    Typing typing = new Typing(RandomExpressions.SCHEMA);
    Typed value;
    try {
      value = typing.type(expression);
    } catch (InvalidInputException e) {
      return; // not every combination has types that fit
    }
    check(random, expressions, expression, value, isCondition);
  }

  private void check(
      Random random,
      RandomExpressions expressions,
      Expression expression,
      Typed value,
      boolean isCondition) {
    Typing typing = new Typing(RandomExpressions.SCHEMA);
    typed++;
    int size = random.nextInt(20) == 0 ? 8193 : random.nextInt(5) == 0 ? random.nextInt(2) : 40;
    Batch all = expressions.batch(size);
    List<Object> expected = new ArrayList<>();
    int[] sound = new int[size];
    int count = 0;
    for (int i = 0; i < size; i++) {
      try {
        expected.add(new SlowEvaluator(all.row(i)).value(value));
        sound[count++] = i;
      } catch (SlowEvaluator.Failure e) {
        if (computesAll(value)) {
          Batch one = Gather.rows(all, new int[] {i});
          assertThatThrownBy(() -> new Computation(value).values(one))
              .as("%s of %s: %s", expression, all.row(i), e.getMessage())
              .isInstanceOf(ComputeException.class);
          failing++;
        }
      }
    }
    Batch batch = Gather.rows(all, java.util.Arrays.copyOf(sound, count));
    Computation computation = new Computation(value);
    for (int turn = 0; turn < 2; turn++) {
      Vector found = computation.values(batch);
      long nulls = expected.stream().filter(java.util.Objects::isNull).count();
      assertThat(found.nullCount()).as("%s", expression).isEqualTo((int) nulls);
      for (int i = 0; i < count; i++) {
        assertThat(found.get(i))
            .as("%s of row %d: %s", expression, i, batch.row(i))
            .isEqualTo(expected.get(i));
        compared++;
      }
    }
    assertThat(computation.type()).isEqualTo(value.type());
    if (isCondition) {
      TypedTest test = typing.type((Condition) expression);
      checkSelected(test, batch, expected, true);
      checkSelected(new TypedTest.Not(test), batch, expected, false);
    }
  }

  /** Whether no part is left out because another one decides. */
  private static boolean computesAll(Typed typed) {
    boolean chooses =
        typed instanceof Typed.Choice
            || typed instanceof Typed.First
            || typed instanceof Typed.Truth;
    return !chooses && typed.parts().stream().allMatch(EvaluateTest::computesAll);
  }

  private static void checkSelected(
      TypedTest test, Batch batch, List<Object> expected, boolean wanted) {
    long[] bits = new long[(batch.size() + 63) >> 6];
    new Selecting(test).select(batch, bits);
    for (int i = 0; i < batch.size(); i++) {
      boolean selected = (bits[i >> 6] & (1L << i)) != 0;
      assertThat(selected)
          .as("%s of %s", test, batch.row(i))
          .isEqualTo(expected.get(i) != null && (Boolean) expected.get(i) == wanted);
    }
  }
}
