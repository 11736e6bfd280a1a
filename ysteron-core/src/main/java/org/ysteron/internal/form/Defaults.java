package org.ysteron.internal.form;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Formula;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.evaluate.RowComputation;
import org.ysteron.internal.typing.Typed;
import org.ysteron.internal.typing.Typing;
import org.ysteron.option.Alteration;

/** What the computed defaults of columns are for one statement. For one thread. */
public final class Defaults {
  private final Instant now;
  private final Map<Integer, Object> known = new HashMap<>();

  /**
   * For a statement.
   *
   * @param now when it began
   */
  public Defaults(Instant now) {
    this.now = now;
  }

  /** The value of a column's computed default. */
  public Object value(Field column) {
    Formula formula = column.computedDefault().orElseThrow();
    if (!known.containsKey(column.id())) {
      known.put(column.id(), computed(column, typed(column, (Expression) formula, now)));
    }
    return known.get(column.id());
  }

  /** What a column gets: the value that is given, or the computed one if that is its formula. */
  public Object of(Object given, Field column) {
    boolean isDefault =
        column.computedDefault().isPresent()
            && given instanceof Formula
            && given.equals(column.standard());
    return isDefault ? value(column) : given;
  }

  /** Values with what is computed in place of the columns' formulas; the same array. */
  public Object[] in(Object[] values, List<Field> columns) {
    for (int c = 0; c < values.length; c++) {
      values[c] = of(values[c], columns.get(c));
    }
    return values;
  }

  private static Object computed(Field column, Typed typed) {
    try {
      return RowComputation.of(typed).value(null, null);
    } catch (ComputeException e) {
      throw wrong(column, e);
    }
  }

  private static Typed typed(Field column, Expression formula, Instant now) {
    if (!formula.columns().isEmpty()) {
      throw InvalidInputException.ofColumn(
          column.name(),
          "The default of column %s, %s, uses column %s. A default cannot use columns."
              .formatted(column.name(), formula, formula.columns().iterator().next()));
    }
    try {
      return new Typing(Schema.NO_COLUMNS, Optional.empty(), Optional.of(now))
          .type(formula, column.type());
    } catch (InvalidInputException e) {
      throw wrong(column, e);
    }
  }

  private static InvalidInputException wrong(Field column, RuntimeException cause) {
    return new InvalidInputException(
        "The default of column %s, %s, does not fit: %s"
            .formatted(column.name(), column.defaultText().orElse(""), cause.getMessage()),
        column.name(),
        cause);
  }

  /** The columns of a new table, with values for defaults that are constant. */
  static Schema bound(Schema schema) {
    List<Field> columns = schema.columns().stream().map(Defaults::bound).toList();
    return Schema.stored(columns, schema.keyIds(), schema.lastId());
  }

  /** A column, with values for defaults that are constant. */
  static Field bound(Field field) {
    Type type = field.type();
    if (type.isNested()) {
      List<Field> inner = new ArrayList<>();
      for (Field part : Schema.children(type)) {
        Field bound = bound(part);
        refuseComputed(bound);
        inner.add(bound);
      }
      field = field.withType(FormEditor.withInner(type, inner));
    }
    return field.computedDefault().isPresent() ? boundHere(field) : field;
  }

  private static Field boundHere(Field field) {
    Expression formula = (Expression) field.computedDefault().orElseThrow();
    Typed typed = typed(field, formula, Instant.EPOCH);
    if (!formula.at(Instant.EPOCH).equals(formula)) {
      return field;
    }
    Object value = computed(field, typed);
    return value == null ? field.withoutDefault() : field.withDefault(value);
  }

  /**
   * Refuses a computed default of a field inside a column: what a whole value lacks cannot be
   * computed row by row.
   */
  static void refuseComputed(Field field) {
    if (field.computedDefault().isPresent()) {
      throw new InvalidInputException(
          "Field %s cannot have the default %s, because only columns of the table, not fields in them, can have a default that changes with the time."
              .formatted(field.name(), field.defaultText().orElseThrow()));
    }
  }

  /** Alterations with the values of older rows for columns whose default is computed. */
  public static List<Alteration> settled(List<Alteration> alterations, Instant now) {
    List<Alteration> settled = new ArrayList<>();
    for (Alteration each : alterations) {
      if (each instanceof Alteration.AddColumn add
          && add.field().computedDefault().isPresent()
          && add.parent().isEmpty()) {
        Object value = new Defaults(now).value(add.field());
        Field field = add.field().withAdded(Optional.ofNullable(value));
        settled.add(new Alteration.AddColumn(add.parent(), field, add.place()));
      } else {
        settled.add(each);
      }
    }
    return settled;
  }
}
