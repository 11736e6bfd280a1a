package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.junit.jupiter.api.Test;

/** Runs simulations; the script {@code simulate} asks for as many as wanted. */
class SimulationTest {
  private static final int SEEDS = 80;
  private static final int TOLD_AFTER = 250;

  /** Runs the seeds from the first number to before the second, in steps of the third. */
  public static void main(String[] numbers) {
    long first = Long.parseLong(numbers[0]);
    long end = Long.parseLong(numbers[1]);
    int step = Integer.parseInt(numbers[2]);
    long part = (long) step * TOLD_AFTER;
    try {
      for (long from = first; from < end; from += part) {
        long before = Math.min(end, from + part);
        run(from, before, step);
        System.out.printf("%,d seeds from %d on%n", (before - from + step - 1) / step, from);
      }
    } catch (AssertionError e) {
      e.printStackTrace();
      System.exit(1);
    }
  }

  private static Simulation.Settings settings(long seed) {
    return new Simulation.Settings(
        seed, 2 + (int) (seed % 2), 3 + (int) (seed % 4), seed % 3 == 0 ? 0 : 25);
  }

  @Test
  void everySeedKeepsEveryPromise() {
    assertThat(run(1, 1 + SEEDS, 1)).as("transactions committed in all").isGreaterThan(SEEDS * 2);
  }

  /** How many transactions were committed. */
  private static int run(long first, long end, int step) {
    int committed = 0;
    for (long seed = first; seed < end; seed += step) {
      Simulation simulation = new Simulation(settings(seed));
      try {
        committed += simulation.run().committed();
      } catch (AssertionError | RuntimeException e) {
        throw new AssertionError(report(settings(seed), e), e);
      }
    }
    return committed;
  }

  /** Looks for a shorter run that fails, too, and shows what happened in it. */
  private static String report(Simulation.Settings failed, Throwable why) {
    Simulation.Settings shortest = failed;
    String message = why.getMessage();
    List<String> trace = trace(failed);
    for (int writers = 1; writers <= failed.writers(); writers++) {
      for (int rounds = 1; rounds <= failed.rounds(); rounds++) {
        for (int trouble : new int[] {0, failed.troubleIn1000()}) {
          Simulation.Settings smaller =
              new Simulation.Settings(failed.seed(), writers, rounds, trouble);
          Simulation simulation = new Simulation(smaller);
          try {
            simulation.run();
          } catch (AssertionError | RuntimeException e) {
            if (simulation.trace().size() < trace.size()) {
              trace = simulation.trace();
              shortest = smaller;
              message = e.getMessage();
            }
          }
        }
      }
    }
    return "seed %d fails; the shortest run known is %s:%n%s%n%s"
        .formatted(failed.seed(), shortest, message, String.join("\n", trace));
  }

  private static List<String> trace(Simulation.Settings settings) {
    Simulation simulation = new Simulation(settings);
    try {
      simulation.run();
    } catch (AssertionError | RuntimeException e) {
      return simulation.trace();
    }
    return simulation.trace();
  }
}
