package org.ysteron.internal.compare;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.history.ChangeBatch;
import org.ysteron.history.ChangeKind;

/** Changed rows as rows of one table. */
final class FlatChanges {
  private static final int ADDED = 2;

  private FlatChanges() {}

  /** The columns, of rows with some columns. */
  static Schema schema(Schema shown) {
    List<Field> fields = new ArrayList<>();
    fields.add(Field.of(free("change", shown), Types.text()));
    fields.add(Field.of(free("serial", shown), Types.BIGINT));
    shown.columns().stream().map(FlatChanges::nullable).forEach(fields::add);
    return Schema.of(fields.toArray(Field[]::new));
  }

  /** Rows of both versions are in it, so that the constraints of neither hold for all. */
  private static Field nullable(Field field) {
    return Field.of(field.name(), nullable(field.type()));
  }

  private static Type nullable(Type type) {
    if (type instanceof Type.Struct struct) {
      return new Type.Struct(struct.fields().stream().map(FlatChanges::nullable).toList());
    }
    if (type instanceof Type.ListOf list) {
      return new Type.ListOf(nullable(list.element()));
    }
    return type instanceof Type.MapOf map ? new Type.MapOf(map.key(), nullable(map.value())) : type;
  }

  private static String free(String name, Schema shown) {
    String found = name;
    while (shown.struct().indexOf(found) >= 0) {
      found += "_";
    }
    return found;
  }

  /** Some changed rows in these columns. */
  static Batch batch(ChangeBatch changes, Type.Struct columns) {
    boolean isUpdate = changes.kind() == ChangeKind.UPDATED;
    int rows = isUpdate ? 2 * changes.size() : changes.size();
    List<Vector> vectors = new ArrayList<>();
    vectors.add(words(changes, columns.fields().get(0).type()));
    VectorBuilder serials = new VectorBuilder(Types.BIGINT, rows);
    for (long serial : changes.serials()) {
      serials.addLong(serial);
      if (isUpdate) {
        serials.addLong(serial);
      }
    }
    vectors.add(serials.build());
    for (int column = 0; column + ADDED < columns.fields().size(); column++) {
      vectors.add(values(changes, column));
    }
    return new Batch(columns, rows, vectors);
  }

  private static Vector words(ChangeBatch changes, Type type) {
    VectorBuilder words = new VectorBuilder(type);
    for (int i = 0; i < changes.size(); i++) {
      switch (changes.kind()) {
        case INSERTED -> words.add("inserted");
        case DELETED -> words.add("deleted");
        case UPDATED -> {
          words.add("updated from");
          words.add("updated to");
        }
        case UNCHANGED -> words.add("unchanged");
      }
    }
    return words.build();
  }

  private static Vector values(ChangeBatch changes, int column) {
    if (changes.kind() != ChangeKind.UPDATED) {
      Batch only = changes.before() == null ? changes.after() : changes.before();
      return only.vectors().get(column);
    }
    Vector before = changes.before().vectors().get(column);
    Vector after = changes.after().vectors().get(column);
    VectorBuilder both = new VectorBuilder(before.type(), 2 * changes.size());
    int[] at = new int[1];
    for (int i = 0; i < changes.size(); i++) {
      Arrays.fill(at, i);
      both.addAll(before, at, 1);
      both.addAll(after, at, 1);
    }
    return both.build();
  }
}
