package org.ysteron.sql.inside;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeKind;
import org.ysteron.history.Changes;
import org.ysteron.internal.read.Source;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Step;

/**
 * The rows that differ between two versions of a table.
 *
 * @param columns {@code what}, {@code serial}, the columns of the table with the values after the
 *     change, of deleted rows those before it, and {@code was}, a row of the values before it, null
 *     for rows that were inserted
 */
public record ChangesStep(Changes changes, String table, Schema columns) implements Step {
  /** The changes of a table. */
  public static ChangesStep of(Changes changes, String table) {
    Set<String> taken = new HashSet<>();
    changes.schema().columns().forEach(column -> taken.add(column.name()));
    List<Field> columns = new ArrayList<>();
    columns.add(Field.of(free("what", taken), Types.text()).notNull());
    columns.add(Field.of(free("serial", taken), Types.BIGINT).notNull());
    List<Field> plain = new ArrayList<>();
    for (Field column : changes.schema().columns()) {
      plain.add(Field.of(column.name(), column.type()));
    }
    columns.addAll(plain);
    columns.add(Field.of(free("was", taken), new Type.Struct(plain)));
    return new ChangesStep(changes, table, Schema.ofNamesByCase(columns));
  }

  /** A name that no column of the table has: with an underscore behind it when one does. */
  private static String free(String name, Set<String> taken) {
    String free = name;
    while (taken.stream().anyMatch(free::equalsIgnoreCase)) {
      free += "_";
    }
    return free;
  }

  @Override
  public List<Step> inputs() {
    return List.of();
  }

  @Override
  public Source<SelectedBatch> begin(Running running) {
    Results<ChangeBatch> batches = changes.batches();
    return new Source<>() {
      @Override
      public Optional<SelectedBatch> next() {
        return batches.next().map(ChangesStep.this::told);
      }

      @Override
      public void close() {
        batches.close();
      }
    };
  }

  private SelectedBatch told(ChangeBatch of) {
    int count = of.size();
    Batch shown = of.kind() == ChangeKind.DELETED ? of.before() : of.after();
    List<Vector> vectors = new ArrayList<>();
    vectors.add(word(of.kind().name().toLowerCase(Locale.ROOT), count));
    vectors.add(new Vector.OfLong(Types.BIGINT, count, of.serials(), null));
    vectors.addAll(shown.vectors());
    Type was = columns.columns().get(columns.columns().size() - 1).type();
    vectors.add(
        of.before() == null
            ? Made.nulls(was, count)
            : new Vector.OfStruct(was, count, of.before().vectors(), null));
    return new SelectedBatch(new Batch(columns.struct(), count, vectors), null, count);
  }

  private static Vector word(String text, int count) {
    byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
    int[] lengths = new int[count];
    Arrays.fill(lengths, bytes.length);
    return new Vector.OfBytes(Types.text(), count, bytes, new int[count], lengths, null);
  }
}
