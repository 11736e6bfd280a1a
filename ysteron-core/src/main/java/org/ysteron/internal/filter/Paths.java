package org.ysteron.internal.filter;

import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;

/** Fields along a path, in batches and in messages. */
final class Paths {
  private Paths() {}

  /** The vector of the field at the end of a path. */
  static Vector vector(Batch batch, List<Field> along) {
    Type.Struct level = batch.columns();
    List<Vector> vectors = batch.vectors();
    Vector vector = null;
    for (Field step : along) {
      vector = vectors.get(position(level, step.id()));
      if (vector instanceof Vector.OfStruct struct) {
        level = (Type.Struct) struct.type();
        vectors = struct.fields();
      }
    }
    return vector;
  }

  private static int position(Type.Struct level, int id) {
    for (int i = 0; i < level.fields().size(); i++) {
      if (level.fields().get(i).id() == id) {
        return i;
      }
    }
    throw new IllegalArgumentException("the batch lacks the tested column " + id);
  }

  /** The names along a path, for messages. */
  static String path(List<Field> along) {
    return Schema.path(along.stream().map(Field::name).toList());
  }
}
