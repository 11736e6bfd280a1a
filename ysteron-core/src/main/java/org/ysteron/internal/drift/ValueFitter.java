package org.ysteron.internal.drift;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.Optional;
import org.ysteron.data.Json;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;
import org.ysteron.option.WriteRules;

/**
 * Makes single values those of a column's type. Where a table may grow nothing is rounded: a binary
 * number holds a decimal one only if it is written as that. It throws what does not fit.
 */
final class ValueFitter {
  /** So many digits behind the point are written out. */
  private static final int LONGEST_FRACTION = 60;

  private final WriteRules rules;

  ValueFitter(WriteRules rules) {
    this.rules = rules;
  }

  /** Whether an empty text stands for null, as it does where it is no value. */
  static boolean isNull(String text, Type type) {
    return text.isEmpty() && !(type instanceof Type.Text) && type != Types.BINARY;
  }

  /** The value that a text is. */
  Object parsed(String text, Type type) {
    if (isWidenedDate(text, type)) {
      return ((LocalDate) ValueText.parse(text, Types.DATE)).atStartOfDay();
    }
    Object value = ValueText.parse(text, type);
    if (rules.drift().grows() && (type == Types.DOUBLE || type == Types.REAL)) {
      exact(text, type);
    }
    return value;
  }

  /** Whether a text is a date where a column of dates may have become one of timestamps. */
  private boolean isWidenedDate(String text, Type type) {
    return type == Types.TIMESTAMP
        && rules.drift().grows()
        && TextForm.of(text).filter(form -> form == TextForm.DATE).isPresent();
  }

  private static void exact(String text, Type type) {
    if (!Exactness.isSurelyHeld(text, type)
        && ValueText.isNumber(text)
        && !Exactness.isHeld(Decimals.parse(text), type)) {
      throw inexact(text, type);
    }
  }

  private static InvalidInputException inexact(String number, Type type) {
    return new InvalidInputException(
        Values.quote(number) + " has more digits than " + type + " holds");
  }

  /** A value as a type has it. */
  Object converted(Object value, Optional<Type> declared, Type type) {
    if (declared.isPresent()) {
      Type given = declared.get();
      boolean widens = !given.isNested() && !type.isNested() && Widening.isExact(given, type);
      return Values.accept(widens ? Widening.value(value, given, type) : value, type);
    }
    if (value instanceof FieldText field) {
      return fieldText(field, type);
    }
    if (!(value instanceof Boolean) && Types.ofJava(value).isPresent()) {
      return converted(value, Types.ofJava(value), type); // a Java value that JSON does not have
    }
    boolean grows = rules.drift().grows();
    boolean asText = grows && type instanceof Type.Text;
    if (asText && (value instanceof Number || value instanceof Boolean)) {
      return Values.accept(asWritten(value), type);
    }
    if (value instanceof String text && isWidenedDate(text, type)) {
      return parsed(text, type);
    }
    Object converted = Json.fromJson(value, type);
    if (grows && (type == Types.DOUBLE || type == Types.REAL)) {
      if (value instanceof BigDecimal number && !Exactness.isHeld(number, type)) {
        throw inexact(number.toString(), type);
      }
      if (!(value instanceof Double) && !(value instanceof BigDecimal)) {
        exact(value.toString(), type);
      }
    }
    return converted;
  }

  /** A number of JSON as JSON writes it: {@code 1e3}, not as Java does, {@code 1E+3}. */
  private static String asWritten(Object value) {
    if (value instanceof BigDecimal number) {
      return number.scale() >= 0 && number.scale() <= LONGEST_FRACTION
          ? number.toPlainString()
          : number.toString().replace("E+", "e").replace('E', 'e');
    }
    return value.toString();
  }

  private Object fieldText(FieldText field, Type type) {
    String text = field.text();
    if (isNull(text, type)) {
      return null;
    }
    if (type.isNested() || type == Types.JSON) {
      return Json.fromJson(Json.parse(text), type);
    }
    try {
      return parsed(text, type);
    } catch (InvalidInputException e) {
      // As JSON has it, the same number may be written in another way: 1e3 is a whole one.
      Object json = rules.drift().grows() && type.isNumber() ? field.json() : text;
      if (json instanceof Number) {
        return converted(json, Optional.empty(), type);
      }
      throw e;
    }
  }
}
