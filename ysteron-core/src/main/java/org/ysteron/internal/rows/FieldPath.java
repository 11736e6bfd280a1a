package org.ysteron.internal.rows;

import java.util.ArrayList;
import java.util.List;
import java.util.function.BiPredicate;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/** Where a field, which may be inside structs, is in the batches of a schema. */
public final class FieldPath {
  private final int[] positions;

  private FieldPath(int[] positions) {
    this.positions = positions;
  }

  /** The way to the field of an id, which the schema has. */
  public static FieldPath of(Schema schema, int fieldId) {
    List<String> names = Schema.parsePath(schema.pathOf(fieldId));
    int[] positions = new int[names.size()];
    Type.Struct level = schema.struct();
    for (int i = 0; i < positions.length; i++) {
      positions[i] = level.indexOf(names.get(i));
      if (i + 1 < positions.length) {
        level = (Type.Struct) level.fields().get(positions[i]).type();
      }
    }
    return new FieldPath(positions);
  }

  /** The fields of single values, also those inside structs, in the order of the schema. */
  public static List<Field> leaves(Schema schema) {
    List<Field> leaves = new ArrayList<>();
    schema.columns().forEach(column -> collect(column, leaves));
    return leaves;
  }

  private static void collect(Field field, List<Field> leaves) {
    if (field.type() instanceof Type.Struct struct) {
      struct.fields().forEach(inner -> collect(inner, leaves));
    } else if (!field.type().isNested()) {
      leaves.add(field);
    }
  }

  /**
   * The vector of the field at the end of a path in a batch that may have other fields beside it.
   *
   * @param same whether a step of the path, given first, is a field of the batch
   */
  public static Vector in(Batch batch, List<Field> along, BiPredicate<Field, Field> same) {
    Type.Struct level = batch.columns();
    List<Vector> vectors = batch.vectors();
    Vector vector = null;
    for (int i = 0; i < along.size(); i++) {
      vector = vectors.get(position(level, along.get(i), same));
      if (vector instanceof Vector.OfStruct struct) {
        level = (Type.Struct) struct.type();
        vectors = struct.fields();
      }
    }
    return vector;
  }

  private static int position(Type.Struct level, Field step, BiPredicate<Field, Field> same) {
    List<Field> fields = level.fields();
    for (int i = 0; i < fields.size(); i++) {
      if (same.test(step, fields.get(i))) {
        return i;
      }
    }
    throw new IllegalArgumentException("the batch lacks the column " + step.name());
  }

  /** Its vector in a batch of the schema. */
  public Vector in(Batch batch) {
    Vector vector = batch.vectors().get(positions[0]);
    for (int i = 1; i < positions.length; i++) {
      vector = ((Vector.OfStruct) vector).fields().get(positions[i]);
    }
    return vector;
  }
}
