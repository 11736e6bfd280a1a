package org.ysteron.internal.filter;

import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.internal.rows.FieldPath;

/** Fields along a path, in batches and in messages. */
final class Paths {
  private Paths() {}

  /** The vector of the field at the end of a path. */
  static Vector vector(Batch batch, List<Field> along) {
    return FieldPath.in(batch, along, (step, field) -> step.id() == field.id());
  }

  /** The names along a path, for messages. */
  static String path(List<Field> along) {
    return Schema.path(along.stream().map(Field::name).toList());
  }
}
