package org.ysteron.data;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.JsonToken;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.StreamReadFeature;
import com.fasterxml.jackson.jr.ob.JSON;
import java.io.IOException;
import java.io.Reader;
import java.io.UncheckedIOException;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.text.NearNames;

/** JSON (RFC 8259): objects as maps, arrays as lists, and values of types as JSON and back. */
public final class Json {
  private static final JsonFactory FACTORY =
      JsonFactory.builder()
          .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
          .streamReadConstraints(StreamReadConstraints.builder().maxNestingDepth(200).build())
          .build();
  private static final JSON WRITER =
      JSON.builder(FACTORY).enable(JSON.Feature.WRITE_NULL_PROPERTIES).build();

  /** Digits, with a sign, that surely fit 64 bits. */
  private static final int MOST_OF_LONG = 18;

  private Json() {}

  /** Checks that the text is one JSON value and returns it. */
  static String checkDocument(String text) {
    parse(text); // what goes in must come out again
    return text;
  }

  /**
   * Parses one JSON value into maps, lists, strings, numbers ({@link Integer}, {@link Long}, {@link
   * java.math.BigInteger}, {@link BigDecimal}, and {@link Double} for the negative zero), booleans
   * and null.
   */
  public static @Nullable Object parse(String text) {
    try (JsonParser parser = FACTORY.createParser(text)) {
      if (parser.nextToken() == null) {
        throw new InvalidInputException("the JSON text is empty");
      }
      Object value = read(parser);
      if (parser.nextToken() != null) {
        throw new InvalidInputException(Values.quote(text) + " is more than one JSON value");
      }
      return value;
    } catch (JsonProcessingException e) {
      throw new InvalidInputException(
          Values.quote(text) + " is not JSON: " + e.getOriginalMessage(), e);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /** A parser of a text that may have many values; it closes the text. */
  public static JsonParser parser(Reader text) throws IOException {
    return FACTORY.createParser(text);
  }

  /**
   * Reads the value at which a parser is, as {@link #parse} does.
   *
   * @throws InvalidInputException when a number or a text cannot be used
   */
  public static @Nullable Object read(JsonParser parser) throws IOException {
    return switch (parser.currentToken()) {
      case START_OBJECT -> {
        Map<String, Object> object = new LinkedHashMap<>();
        for (String name = parser.nextFieldName(); name != null; name = parser.nextFieldName()) {
          whole(name);
          parser.nextToken();
          object.put(name, read(parser));
        }
        yield object;
      }
      case START_ARRAY -> {
        List<Object> list = new ArrayList<>();
        while (parser.nextToken() != JsonToken.END_ARRAY) {
          list.add(read(parser));
        }
        yield list;
      }
      case VALUE_STRING -> whole(parser.getText());
      case VALUE_NUMBER_INT, VALUE_NUMBER_FLOAT -> number(parser);
      case VALUE_TRUE -> true;
      case VALUE_FALSE -> false;
      default -> null;
    };
  }

  /** A whole number of more than 18 digits that fits 64 bits is a long, too. */
  private static Object number(JsonParser parser) throws IOException {
    String text = parser.getText();
    if (parser.currentToken() == JsonToken.VALUE_NUMBER_INT && text.length() <= MOST_OF_LONG) {
      long whole = Long.parseLong(text);
      if (whole == 0 && text.charAt(0) == '-') {
        return -0.0;
      }
      return whole == (int) whole ? (Object) (int) whole : (Object) whole;
    }
    BigDecimal number = Decimals.parse(text);
    if (number.signum() == 0 && text.charAt(0) == '-') {
      return -0.0;
    }
    if (parser.currentToken() != JsonToken.VALUE_NUMBER_INT) {
      return number;
    }
    BigInteger whole = number.toBigIntegerExact();
    return whole.bitLength() < Long.SIZE ? (Object) whole.longValue() : whole;
  }

  private static String whole(String text) {
    int half = Limits.halfCharacter(text);
    if (half >= 0) {
      throw new InvalidInputException(
          "the JSON text %s contains half of a surrogate pair (U+%04X)"
              .formatted(Values.quote(text), (int) text.charAt(half)));
    }
    return text;
  }

  /** Writes maps, lists, strings, numbers, booleans and null on one line. */
  public static String write(@Nullable Object value) {
    try {
      return WRITER.asString(value);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /** Parses the JSON text of a value of a type. */
  public static Object parseValue(String text, Type type) {
    return fromJson(parse(text), type);
  }

  /**
   * Turns parsed JSON into a value of a type: numbers for numbers (also as text, for decimals),
   * text for the types that JSON lacks, arrays for lists, objects for structs and maps with text
   * keys, arrays of two-element arrays for other maps.
   */
  public static Object fromJson(@Nullable Object json, Type type) {
    if (type instanceof Type.ListOf list && json instanceof List<?> elements) {
      List<Object> values = new ArrayList<>();
      for (Object element : elements) {
        values.add(fieldFromJson(element, list.element()));
      }
      return values;
    }
    if (type instanceof Type.Struct struct && json instanceof Map<?, ?> object) {
      return structFromJson(object, struct);
    }
    if (type instanceof Type.MapOf map) {
      return mapFromJson(json, map);
    }
    if (type == Types.JSON) {
      return write(json);
    }
    if (type == Types.BOOLEAN && json instanceof Boolean) {
      return json;
    }
    if (!type.isNested()
        && (json instanceof String || (type.isNumber() && json instanceof Number))
        && !(type.isText() && !(json instanceof String))) {
      return ValueText.parse(text(json, type), type);
    }
    throw new InvalidInputException(Values.show(shown(json)) + " is not a value of " + type);
  }

  /** What was parsed as a value of a type would be written; whole numbers without an exponent. */
  private static String text(Object json, Type type) {
    boolean real = type == Types.REAL || type == Types.DOUBLE;
    if (json instanceof Double zero && !real && zero == 0) {
      return "0";
    }
    return json instanceof BigDecimal number ? number.toPlainString() : json.toString();
  }

  private static Object shown(@Nullable Object json) {
    return json instanceof String ? json : write(json);
  }

  private static @Nullable Object fieldFromJson(@Nullable Object json, Field field) {
    return json == null ? Values.acceptField(null, field) : fromJson(json, field.type());
  }

  private static Row structFromJson(Map<?, ?> object, Type.Struct struct) {
    for (Object name : object.keySet()) {
      if (struct.indexOf((String) name) < 0) {
        throw new InvalidInputException(
            "field %s is not one of %s.%s"
                .formatted(
                    NearNames.shown((String) name),
                    struct,
                    NearNames.didYouMean(
                        (String) name, struct.fields().stream().map(Field::name).toList())));
      }
    }
    Object[] values = new Object[struct.fields().size()];
    for (int i = 0; i < values.length; i++) {
      Field field = struct.fields().get(i);
      values[i] = fieldFromJson(object.get(field.name()), field);
    }
    return Row.of(struct, values);
  }

  private static Map<Object, Object> mapFromJson(@Nullable Object json, Type.MapOf map) {
    Map<Object, Object> values = new LinkedHashMap<>();
    if (json instanceof Map<?, ?> object) {
      object.forEach(
          (key, value) ->
              values.put(
                  ValueText.parse((String) key, map.key().type()),
                  fieldFromJson(value, map.value())));
      return values;
    }
    if (json instanceof List<?> pairs) {
      for (Object pair : pairs) {
        if (!(pair instanceof List<?> two) || two.size() != 2) {
          throw new InvalidInputException("a map in JSON is an object or an array of pairs");
        }
        values.put(fieldFromJson(two.get(0), map.key()), fieldFromJson(two.get(1), map.value()));
      }
      return values;
    }
    throw new InvalidInputException(Values.show(shown(json)) + " is not a value of " + map);
  }

  /** Turns a value of a type's Java class into what {@link #write} takes. */
  public static @Nullable Object toJson(@Nullable Object value, Type type) {
    if (value == null || value instanceof Boolean) {
      return value;
    }
    if (type instanceof Type.ListOf list) {
      List<Object> elements = new ArrayList<>();
      ((List<?>) value).forEach(element -> elements.add(toJson(element, list.element().type())));
      return elements;
    }
    if (type instanceof Type.MapOf map) {
      return mapToJson((Map<?, ?>) value, map);
    }
    if (type instanceof Type.Struct struct) {
      Map<String, Object> object = new LinkedHashMap<>();
      for (Field field : struct.fields()) {
        object.put(field.name(), toJson(((Row) value).get(field.name()), field.type()));
      }
      return object;
    }
    if (value instanceof byte[] bytes) {
      return HexFormat.of().formatHex(bytes);
    }
    if (type == Types.JSON) {
      return parse((String) value);
    }
    if (value instanceof Double || value instanceof Float) {
      double number = ((Number) value).doubleValue();
      boolean negativeZero = number == 0 && Double.doubleToRawLongBits(number) != 0;
      // JSON has no such numbers; as text they come back as they were.
      return negativeZero || !Double.isFinite(number) ? value.toString() : value;
    }
    return value instanceof Number ? value : value.toString();
  }

  private static Object mapToJson(Map<?, ?> value, Type.MapOf map) {
    if (map.key().type().isText()) {
      Map<String, Object> object = new LinkedHashMap<>();
      value.forEach((k, v) -> object.put((String) k, toJson(v, map.value().type())));
      return object;
    }
    List<Object> pairs = new ArrayList<>();
    value.forEach(
        (k, v) -> {
          List<Object> pair = new ArrayList<>();
          pair.add(toJson(k, map.key().type()));
          pair.add(toJson(v, map.value().type()));
          pairs.add(pair);
        });
    return pairs;
  }
}
