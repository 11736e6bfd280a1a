package org.ysteron.internal.drift;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Things by number, of which most often the last one is asked for again. */
final class KnownValues<T> {
  private final List<T> all = new ArrayList<>();
  private final Map<T, Integer> numbers = new HashMap<>();
  private T last;
  private int number;

  int number(T one) {
    if (one != last) {
      number = numbers.computeIfAbsent(one, o -> all.size());
      if (number == all.size()) {
        all.add(one);
      }
      last = one;
    }
    return number;
  }

  T get(int at) {
    return all.get(at);
  }
}
