package org.ysteron.internal.rows;

import java.lang.invoke.MethodHandle;
import java.lang.invoke.MethodHandles;
import java.lang.invoke.MethodType;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.text.WithArticle;

/**
 * Binds the components of a Java record to the fields of a struct, by name. Names and types are
 * checked once, here, not for each row. A component has the Java class of its field's type (see
 * {@link Type}), or the primitive type when the field is NOT NULL; a struct is a record of its own.
 * Immutable, thread-safe.
 *
 * @param <R> the record
 */
public final class RecordBinding<R extends Record> {
  private static final Map<Class<?>, Class<?>> BOXES =
      Map.of(
          boolean.class, Boolean.class,
          int.class, Integer.class,
          long.class, Long.class,
          float.class, Float.class,
          double.class, Double.class);

  private final Type.Struct struct;
  private final MethodHandle constructor;
  private final MethodHandle[] accessors;
  private final int[] fieldOfComponent;
  private final int[] componentOfField;
  private final List<UnaryOperator<Object>> toField = new ArrayList<>();
  private final List<UnaryOperator<Object>> toComponent = new ArrayList<>();

  private RecordBinding(Class<R> type, Type.Struct struct, boolean writing) {
    this.struct = struct;
    RecordComponent[] components = type.getRecordComponents();
    accessors = new MethodHandle[components.length];
    fieldOfComponent = new int[components.length];
    componentOfField = new int[struct.fields().size()];
    Arrays.fill(componentOfField, -1);
    Class<?>[] parameters = new Class<?>[components.length];
    List<String> names = struct.fields().stream().map(Field::name).toList();
    try {
      MethodHandles.Lookup lookup = MethodHandles.privateLookupIn(type, MethodHandles.lookup());
      for (int i = 0; i < components.length; i++) {
        String name = components[i].getName();
        int at = struct.indexOf(name);
        if (at < 0) {
          throw new InvalidInputException(
              "Record %s has a component %s, but there is no such column.%s"
                  .formatted(type.getSimpleName(), name, NearNames.didYouMean(name, names)));
        }
        Field field = struct.fields().get(at);
        check(type, components[i], field);
        fieldOfComponent[i] = at;
        componentOfField[at] = i;
        parameters[i] = components[i].getType();
        accessors[i] =
            lookup
                .unreflect(components[i].getAccessor())
                .asType(MethodType.methodType(Object.class, Record.class));
        toField.add(converter(components[i].getGenericType(), field.type(), true));
        toComponent.add(converter(components[i].getGenericType(), field.type(), false));
      }
      constructor =
          lookup
              .findConstructor(type, MethodType.methodType(void.class, parameters))
              .asSpreader(Object[].class, components.length);
    } catch (IllegalAccessException | NoSuchMethodException e) {
      throw new InvalidInputException(
          "Record %s cannot be used: %s. Open its package to org.ysteron."
              .formatted(type.getSimpleName(), e.getMessage()),
          e);
    }
    for (int f = 0; writing && f < componentOfField.length; f++) {
      Field field = struct.fields().get(f);
      if (componentOfField[f] < 0 && field.required() && !field.hasDefault()) {
        throw new InvalidInputException(
            "Record %s has no component for column %s, which is NOT NULL and has no default."
                .formatted(type.getSimpleName(), field.name()));
      }
    }
  }

  /** A binding whose record need not have a component for every field. */
  public static <R extends Record> RecordBinding<R> forReading(Class<R> type, Type.Struct struct) {
    return new RecordBinding<>(type, struct, false);
  }

  /** A binding that has a component for every field that needs a value. */
  public static <R extends Record> RecordBinding<R> forWriting(Class<R> type, Type.Struct struct) {
    return new RecordBinding<>(type, struct, true);
  }

  private static void check(Class<?> record, RecordComponent component, Field field) {
    Class<?> given = component.getType();
    if (given.isPrimitive() && !field.required()) {
      throw new InvalidInputException(
          "Component %s of record %s is %s, but column %s may be null; make it %s."
              .formatted(
                  component.getName(),
                  record.getSimpleName(),
                  given,
                  field.name(),
                  BOXES.getOrDefault(given, Object.class).getSimpleName()));
    }
    Class<?> boxed = BOXES.getOrDefault(given, given);
    boolean fits =
        field.type() instanceof Type.Struct
            ? given.isRecord() || Row.class.isAssignableFrom(given)
            : boxed.isAssignableFrom(javaClass(field.type()));
    if (!fits) {
      throw new InvalidInputException(
          "Component %s of record %s is %s, but column %s is %s, with values of class %s."
              .formatted(
                  component.getName(),
                  record.getSimpleName(),
                  WithArticle.of(given.getSimpleName()),
                  field.name(),
                  field.type(),
                  javaClass(field.type()).getSimpleName()));
    }
  }

  /** The Java class of a type's values. */
  static Class<?> javaClass(Type type) {
    if (type instanceof Type.Decimal) {
      return java.math.BigDecimal.class;
    }
    if (type instanceof Type.Text) {
      return String.class;
    }
    if (type instanceof Type.ListOf) {
      return List.class;
    }
    if (type instanceof Type.MapOf) {
      return Map.class;
    }
    if (type instanceof Type.Struct) {
      return Row.class;
    }
    return switch ((Type.Simple) type) {
      case BOOLEAN -> Boolean.class;
      case INTEGER -> Integer.class;
      case BIGINT -> Long.class;
      case REAL -> Float.class;
      case DOUBLE -> Double.class;
      case DATE -> java.time.LocalDate.class;
      case TIME -> java.time.LocalTime.class;
      case TIMESTAMP -> java.time.LocalDateTime.class;
      case INSTANT -> java.time.Instant.class;
      case BINARY -> byte[].class;
      case UUID -> java.util.UUID.class;
      case JSON -> String.class;
    };
  }

  @SuppressWarnings("unchecked") // a record class was just asked for
  private static UnaryOperator<Object> converter(
      java.lang.reflect.Type java, Type type, boolean writing) {
    if (type instanceof Type.Struct struct
        && java instanceof Class<?> record
        && record.isRecord()) {
      RecordBinding<Record> inner = new RecordBinding<>((Class<Record>) record, struct, writing);
      return writing
          ? value -> value == null ? null : inner.toRow((Record) value)
          : value -> value == null ? null : inner.toRecord((Row) value);
    }
    if (java instanceof ParameterizedType generic) {
      java.lang.reflect.Type[] arguments = generic.getActualTypeArguments();
      if (type instanceof Type.ListOf list && arguments.length == 1) {
        UnaryOperator<Object> each = converter(arguments[0], list.element().type(), writing);
        return value -> value == null ? null : mapped((List<?>) value, each);
      }
      if (type instanceof Type.MapOf map && arguments.length == 2) {
        UnaryOperator<Object> keys = converter(arguments[0], map.key().type(), writing);
        UnaryOperator<Object> values = converter(arguments[1], map.value().type(), writing);
        return value -> value == null ? null : mapped((Map<?, ?>) value, keys, values);
      }
    }
    return UnaryOperator.identity();
  }

  private static List<Object> mapped(List<?> list, UnaryOperator<Object> each) {
    List<Object> result = new ArrayList<>(list.size());
    list.forEach(element -> result.add(each.apply(element)));
    return result;
  }

  private static Map<Object, Object> mapped(
      Map<?, ?> map, UnaryOperator<Object> keys, UnaryOperator<Object> values) {
    Map<Object, Object> result = new LinkedHashMap<>();
    map.forEach((key, value) -> result.put(keys.apply(key), values.apply(value)));
    return result;
  }

  /** The values of a record in the order of the fields; defaults where it has no component. */
  public Object[] values(Record record) {
    Object[] values = new Object[componentOfField.length];
    for (int f = 0; f < values.length; f++) {
      int c = componentOfField[f];
      values[f] =
          c < 0 ? struct.fields().get(f).standard() : toField.get(c).apply(component(record, c));
    }
    return values;
  }

  /** The components of a record by the names of their fields, and nothing else. */
  public Row row(Record record) {
    List<Field> fields = new ArrayList<>();
    Object[] values = new Object[accessors.length];
    for (int c = 0; c < values.length; c++) {
      fields.add(struct.fields().get(fieldOfComponent[c]));
      values[c] = toField.get(c).apply(component(record, c));
    }
    return Row.of(new Type.Struct(fields), values);
  }

  private Object component(Record record, int c) {
    try {
      return accessors[c].invoke(record);
    } catch (RuntimeException | Error e) {
      throw e;
    } catch (Throwable e) {
      throw new InvalidInputException("A record's accessor failed: " + e.getMessage(), e);
    }
  }

  private Row toRow(Record record) {
    return Row.of(struct, values(record));
  }

  /** A record of a row of the struct. */
  @SuppressWarnings("unchecked") // the constructor makes an R
  public R toRecord(Row row) {
    Object[] arguments = new Object[fieldOfComponent.length];
    for (int c = 0; c < arguments.length; c++) {
      arguments[c] = toComponent.get(c).apply(row.get(fieldOfComponent[c]));
    }
    try {
      return (R) constructor.invoke(arguments);
    } catch (RuntimeException | Error e) {
      throw e;
    } catch (Throwable e) {
      throw new InvalidInputException("A record's constructor failed: " + e.getMessage(), e);
    }
  }
}
