package org.ysteron.internal.filter;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Types;

/**
 * Turns the tests of a condition into tests of the parts in which rows that pass can be. What says
 * nothing of parts becomes a test that everything passes.
 */
final class PartTests {
  private static final BoundTest ANY = new BoundTest.And(List.of());

  private final List<Grouping> groupings;

  PartTests(List<Grouping> groupings) {
    this.groupings = groupings;
  }

  static boolean isAny(BoundTest test) {
    return test instanceof BoundTest.And and && and.parts().isEmpty();
  }

  BoundTest of(BoundTest test) {
    if (test instanceof BoundTest.And and) {
      List<BoundTest> parts =
          and.parts().stream().map(this::of).filter(part -> !isAny(part)).toList();
      return parts.isEmpty() ? ANY : new BoundTest.And(parts);
    }
    if (test instanceof BoundTest.Or or) {
      List<BoundTest> parts = or.parts().stream().map(this::of).toList();
      return parts.stream().anyMatch(PartTests::isAny) ? ANY : new BoundTest.Or(parts);
    }
    if (test instanceof BoundComputed computed) {
      return of(computed.pruning());
    }
    if (!(test instanceof BoundTest.OfColumn column)) {
      return ANY;
    }
    List<BoundTest> parts = new ArrayList<>();
    for (Grouping grouping : groupings) {
      if (grouping.fieldId() == column.field().id()) {
        BoundTest one = of(column, grouping);
        if (!isAny(one)) {
          parts.add(one);
        }
      }
    }
    return parts.isEmpty() ? ANY : new BoundTest.And(parts);
  }

  private static BoundTest of(BoundTest.OfColumn test, Grouping grouping) {
    List<Field> part = List.of(Field.of("part", Types.BIGINT).withId(grouping.partId()));
    if (test instanceof BoundTest.OfNull ofNull) {
      return new BoundTest.OfNull(part, ofNull.wanted());
    }
    List<Grouping.Span> spans = new ArrayList<>();
    int count = test.intervals();
    for (int i = 0; i < count; i++) {
      Optional<Grouping.Span> span = test.parts(i, grouping);
      if (span.isEmpty()) {
        return ANY;
      }
      spans.add(span.get());
    }
    return ofSpans(part, spans);
  }

  private static BoundTest ofSpans(List<Field> part, List<Grouping.Span> spans) {
    spans.sort(Comparator.comparingLong(Grouping.Span::least));
    List<Grouping.Span> joined = new ArrayList<>();
    for (Grouping.Span span : spans) {
      int last = joined.size() - 1;
      if (last >= 0 && span.least() <= joined.get(last).most()) {
        long most = Math.max(joined.get(last).most(), span.most());
        joined.set(last, new Grouping.Span(joined.get(last).least(), most));
      } else {
        joined.add(span);
      }
    }
    return new NumberIntervals(
        part,
        joined.stream().mapToLong(Grouping.Span::least).toArray(),
        joined.stream().mapToLong(Grouping.Span::most).toArray());
  }
}
