package org.ysteron.sql.run;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.Computation;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Passing;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;

/**
 * Rows with the elements of their lists and maps, a row for each element. Several collections go
 * side by side; those that end earlier give nulls.
 *
 * @param collections lists and maps; null is like an empty one
 * @param flat for each collection whether its elements are structs whose fields are columns
 * @param numbered whether the number of the element stands behind it, from 1 on
 * @param keepsEmpty whether rows without elements are there too, with nulls
 * @param columns those of the input, those of the elements, the number
 */
public record UnnestStep(
    Step input,
    List<Expression> collections,
    List<Boolean> flat,
    boolean numbered,
    boolean keepsEmpty,
    Schema columns)
    implements Passing {
  private static final int BATCH = 8192;
  private static final int NONE = -1;

  @Override
  public List<Step> inputs() {
    return List.of(input);
  }

  @Override
  public Step over(Step rows) {
    return new UnnestStep(rows, collections, flat, numbered, keepsEmpty, columns);
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    List<Computation> computed =
        collections.stream().map(one -> running.computation(one, input.columns())).toList();
    Source<SelectedBatch> rows = input.open(running);
    return new Source<>() {
      private Batch batch;
      private List<Vector> values;
      private int next;

      @Override
      public Optional<SelectedBatch> next() {
        while (true) {
          while (batch == null || next == batch.size()) {
            Optional<SelectedBatch> more = rows.next();
            if (more.isEmpty()) {
              return Optional.empty();
            }
            batch = Selected.dense(more.get());
            values = computed.stream().map(one -> one.values(batch)).toList();
            next = 0;
          }
          Batch made = unnested();
          if (made.size() > 0) {
            return Optional.of(new SelectedBatch(made, null, made.size()));
          }
        }
      }

      private Batch unnested() {
        Places places = new Places(values.size());
        while (next < batch.size() && places.count < BATCH) {
          int most = values.stream().mapToInt(one -> length(one, next)).max().orElse(0);
          for (int i = 0; i < (keepsEmpty ? Math.max(1, most) : most); i++) {
            places.add(next, i, values, i < most ? i + 1 : NONE);
          }
          next++;
        }
        return batch(batch, values, places);
      }

      @Override
      public void close() {
        rows.close();
      }
    };
  }

  /** Where the values of the rows that are made come from. */
  private static final class Places {
    private final int[][] elements;
    private int[] rows = new int[BATCH];
    private int[] numbers = new int[BATCH];
    private int count;

    Places(int collections) {
      this.elements = new int[collections][BATCH];
    }

    void add(int row, int element, List<Vector> values, int number) {
      if (count == rows.length) {
        rows = Arrays.copyOf(rows, 2 * count);
        numbers = Arrays.copyOf(numbers, 2 * count);
        for (int c = 0; c < elements.length; c++) {
          elements[c] = Arrays.copyOf(elements[c], 2 * count);
        }
      }
      rows[count] = row;
      numbers[count] = number;
      for (int c = 0; c < elements.length; c++) {
        boolean isThere = element < length(values.get(c), row);
        elements[c][count] = isThere ? start(values.get(c), row) + element : NONE;
      }
      count++;
    }
  }

  private static int length(Vector collection, int row) {
    return collection.isNull(row) ? 0 : start(collection, row + 1) - start(collection, row);
  }

  private static int start(Vector collection, int row) {
    return collection instanceof Vector.OfList list
        ? list.offsets()[row]
        : ((Vector.OfMap) collection).offsets()[row];
  }

  private Batch batch(Batch from, List<Vector> values, Places places) {
    int count = places.count;
    List<Vector> vectors =
        new ArrayList<>(Gather.rows(from, Arrays.copyOf(places.rows, count)).vectors());
    for (int c = 0; c < values.size(); c++) {
      int[] at = Arrays.copyOf(places.elements[c], count);
      if (values.get(c) instanceof Vector.OfMap map) {
        vectors.add(picked(map.keys(), at));
        vectors.add(picked(map.mapped(), at));
      } else {
        Vector elements = ((Vector.OfList) values.get(c)).elements();
        if (flat.get(c)) {
          fields((Vector.OfStruct) elements, at).forEach(vectors::add);
        } else {
          vectors.add(picked(elements, at));
        }
      }
    }
    if (numbered) {
      VectorBuilder numbers = new VectorBuilder(Types.INTEGER, Math.max(1, count));
      for (int i = 0; i < count; i++) {
        numbers.add(places.numbers[i] == NONE ? null : places.numbers[i]);
      }
      vectors.add(numbers.buildLast());
    }
    return new Batch(columns.struct(), count, vectors);
  }

  /** The fields of structs; those of a struct that is null are null. */
  private static List<Vector> fields(Vector.OfStruct structs, int[] at) {
    int[] there = at.clone();
    for (int i = 0; i < at.length; i++) {
      there[i] = at[i] == NONE || structs.isNull(at[i]) ? NONE : at[i];
    }
    return structs.fields().stream().map(field -> picked(field, there)).toList();
  }

  private static Vector picked(Vector values, int[] at) {
    if (Arrays.stream(at).noneMatch(place -> place == NONE)) {
      return Gather.values(values, at);
    }
    VectorBuilder builder = new VectorBuilder(values.type(), Math.max(1, at.length));
    for (int place : at) {
      builder.add(place == NONE ? null : values.get(place));
    }
    return builder.buildLast();
  }
}
