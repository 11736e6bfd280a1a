package org.ysteron.internal.form;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Widening;

/**
 * Columns by which the rows of another schema of the table are read: the ids and names wanted, each
 * in the wider of both types, for a rewind may have made a column narrower again than files are.
 */
public final class WiderColumns {
  private WiderColumns() {}

  /**
   * Columns that take all values of rows of another schema.
   *
   * @param wanted whose columns, names and order
   * @param held the schema of the rows
   */
  public static Schema of(Schema wanted, Schema held) {
    List<Field> columns = fields(wanted.columns(), held.columns());
    return columns.equals(wanted.columns())
        ? wanted
        : Schema.stored(columns, wanted.keyIds(), wanted.lastId());
  }

  /**
   * Columns without those that another schema of the table has dropped, at any depth: rows that
   * were moved since have lost their values.
   */
  public static Schema notDropped(Schema wanted, Schema other) {
    List<Field> columns = notDropped(wanted.columns(), other);
    return columns.equals(wanted.columns())
        ? wanted
        : Schema.stored(columns, List.of(), wanted.lastId());
  }

  private static List<Field> notDropped(List<Field> fields, Schema other) {
    List<Field> left = new ArrayList<>();
    for (Field field : fields) {
      if (field.id() > other.lastId()) {
        left.add(field); // which came later
      } else if (other.field(field.id()).isPresent()) {
        notDropped(field.type(), other).ifPresent(type -> left.add(field.reshaped(type)));
      }
    }
    return left;
  }

  /** A type without fields that were dropped; empty when no field is left. */
  private static Optional<Type> notDropped(Type type, Schema other) {
    if (type instanceof Type.Struct struct) {
      List<Field> left = notDropped(struct.fields(), other);
      return left.isEmpty() ? Optional.empty() : Optional.of(new Type.Struct(left));
    }
    if (type instanceof Type.ListOf list) {
      return notDropped(list.element().type(), other)
          .map(inner -> new Type.ListOf(list.element().reshaped(inner)));
    }
    if (type instanceof Type.MapOf map) {
      return notDropped(map.value().type(), other)
          .map(inner -> new Type.MapOf(map.key(), map.value().reshaped(inner)));
    }
    return Optional.of(type);
  }

  /** Columns of which some, by their ids, are null in rows that are older than they are. */
  public static Schema asNull(Schema schema, Set<Integer> ids) {
    List<Field> columns = schema.columns().stream().map(column -> asNull(column, ids)).toList();
    return Schema.stored(columns, List.of(), schema.lastId());
  }

  private static Field asNull(Field field, Set<Integer> ids) {
    Type type = field.type();
    if (type instanceof Type.Struct struct) {
      type = new Type.Struct(struct.fields().stream().map(inner -> asNull(inner, ids)).toList());
    }
    return ids.contains(field.id())
        ? new Field(
            field.id(),
            field.name(),
            type,
            false,
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            field.comment())
        : field.withType(type);
  }

  private static List<Field> fields(List<Field> wanted, List<Field> held) {
    List<Field> fields = new ArrayList<>();
    for (Field field : wanted) {
      Optional<Field> other = held.stream().filter(f -> f.id() == field.id()).findFirst();
      fields.add(other.map(there -> field(field, there)).orElse(field));
    }
    return fields;
  }

  private static Field field(Field wanted, Field held) {
    if (wanted.type().equals(held.type())) {
      return wanted;
    }
    return type(wanted.type(), held.type())
        .map(wanted::reshaped)
        .orElseGet(() -> held.withName(wanted.name())); // no type takes both: that of the rows does
  }

  private static Optional<Type> type(Type wanted, Type held) {
    if (wanted instanceof Type.Struct a && held instanceof Type.Struct b) {
      return Optional.of(new Type.Struct(fields(a.fields(), b.fields())));
    }
    if (wanted instanceof Type.ListOf a && held instanceof Type.ListOf b) {
      return Optional.of(new Type.ListOf(field(a.element(), b.element())));
    }
    if (wanted instanceof Type.MapOf a && held instanceof Type.MapOf b) {
      return Optional.of(new Type.MapOf(field(a.key(), b.key()), field(a.value(), b.value())));
    }
    return Widening.common(wanted, held).filter(both -> Widening.isExact(held, both));
  }
}
