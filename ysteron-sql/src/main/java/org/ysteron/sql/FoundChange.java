package org.ysteron.sql;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.ysteron.TransactionTable.LocatedRows;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.change.FoundRows;
import org.ysteron.sql.change.FoundRows.Action;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Ordering;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.SortStep;

/**
 * Carries out a change of rows that a query finds: those that go are marked and new ones written as
 * they are found; new values of rows that are there wait, ordered by the place of the row.
 */
record FoundChange(FoundRows found, LocatedRows rows, Running running) {
  private static final List<Ordering.Order> BY_PLACE =
      List.of(new Ordering.Order(0, false, false), new Ordering.Order(1, false, false));

  void run() {
    Taken taken = new Taken(found, rows);
    if (found.updated().isEmpty()) {
      taken.open(running).each(none -> {});
      return;
    }
    Source<SelectedBatch> sorted = new SortStep(taken, BY_PLACE, Long.MAX_VALUE).open(running);
    List<Field> columns =
        Stream.concat(Stream.of(rows.file(), rows.position()), found.updated().stream()).toList();
    rows.values(
        new Results<>(
            () ->
                sorted
                    .next()
                    .map(Selected::dense)
                    .map(batch -> typed(batch.vectors(), batch.size(), columns))
                    .orElse(null),
            sorted::close));
  }

  /** Vectors as columns; a text as one of at most so many characters, which the table tests. */
  static Batch typed(List<Vector> vectors, int size, List<Field> columns) {
    List<Vector> typed = new ArrayList<>();
    for (int c = 0; c < vectors.size(); c++) {
      typed.add(of(vectors.get(c), columns.get(c).type()));
    }
    return new Batch(new Type.Struct(columns), size, typed);
  }

  private static Vector of(Vector vector, Type type) {
    return vector instanceof Vector.OfBytes of && type.isText() && vector.type().isText()
        ? new Vector.OfBytes(
            type,
            of.size(),
            of.data(),
            of.starts(),
            of.lengths(),
            of.nulls(),
            of.words(),
            of.codes())
        : vector;
  }

  /** Takes what is found; the rows of this step are places and new values. */
  private record Taken(FoundRows found, LocatedRows rows) implements Step {
    @Override
    public Schema columns() {
      List<Type> types = new ArrayList<>();
      List<Field> all = found.step().columns().columns();
      types.add(all.get(1).type());
      types.add(all.get(2).type());
      for (int at : updatedColumns()) {
        types.add(all.get(at).type());
      }
      return Made.schema(types);
    }

    private int[] updatedColumns() {
      return found.updated().stream()
          .mapToInt(column -> FoundRows.PLACES + found.columns().indexOf(column))
          .toArray();
    }

    @Override
    public List<Step> inputs() {
      return List.of(found.step());
    }

    @Override
    public Source<SelectedBatch> begin(Running running) {
      Source<SelectedBatch> input = found.step().open(running);
      Schema columns = columns();
      return new Source<>() {
        @Override
        public Optional<SelectedBatch> next() {
          for (Optional<SelectedBatch> batch = input.next();
              batch.isPresent();
              batch = input.next()) {
            Batch updates = take(Selected.dense(batch.get()), columns);
            if (updates.size() > 0) {
              return Optional.of(new SelectedBatch(updates, null, updates.size()));
            }
          }
          return Optional.empty();
        }

        @Override
        public void close() {
          input.close();
        }
      };
    }

    private Batch take(Batch batch, Schema columns) {
      int[] actions = ((Vector.OfInt) batch.vectors().get(0)).values();
      int[] updates = new int[batch.size()];
      int[] inserts = new int[batch.size()];
      int updated = 0;
      int inserted = 0;
      for (int i = 0; i < batch.size(); i++) {
        switch (Action.of(actions[i])) {
          case DELETE -> once(rows.delete(file(batch, i), position(batch, i)), batch, i);
          case UPDATE -> {
            once(rows.update(file(batch, i), position(batch, i)), batch, i);
            updates[updated++] = i;
          }
          case INSERT -> inserts[inserted++] = i;
          case NOTHING -> {}
        }
      }
      insert(Gather.rows(batch, Arrays.copyOf(inserts, inserted)));
      Batch changed = Gather.rows(batch, Arrays.copyOf(updates, updated));
      List<Vector> vectors = new ArrayList<>(changed.vectors().subList(1, FoundRows.PLACES));
      for (int at : updatedColumns()) {
        vectors.add(changed.vectors().get(at));
      }
      return new Batch(columns.struct(), updated, vectors);
    }

    private void insert(Batch batch) {
      if (batch.size() > 0) {
        List<Vector> values = batch.vectors().subList(FoundRows.PLACES, batch.vectors().size());
        rows.insert(typed(values, batch.size(), rows.schema().columns()));
      }
    }

    private static long file(Batch batch, int row) {
      return ((Vector.OfLong) batch.vectors().get(1)).values()[row];
    }

    private static long position(Batch batch, int row) {
      return ((Vector.OfLong) batch.vectors().get(2)).values()[row];
    }

    private void once(boolean isFirst, Batch batch, int row) {
      if (!isFirst) {
        throw new InvalidInputException(
            "A row of the table would be changed twice, because more than one row of the source matches it: %s. Nothing was changed; make the source have one row for each."
                .formatted(rows.told(file(batch, row), position(batch, row))));
      }
    }
  }
}
