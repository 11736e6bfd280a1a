package org.ysteron.data;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.StreamReadFeature;
import com.fasterxml.jackson.jr.ob.JSON;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.error.InvalidInputException;

/** JSON (RFC 8259): objects as maps, arrays as lists, and values of types as JSON and back. */
public final class Json {
  private static final JsonFactory FACTORY =
      JsonFactory.builder()
          .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
          .streamReadConstraints(StreamReadConstraints.builder().maxNestingDepth(200).build())
          .build();
  private static final JSON STRICT =
      JSON.builder(FACTORY)
          .enable(JSON.Feature.USE_BIG_DECIMAL_FOR_FLOATS, JSON.Feature.FAIL_ON_DUPLICATE_MAP_KEYS)
          .enable(JSON.Feature.WRITE_NULL_PROPERTIES)
          .build();

  private Json() {}

  /** Checks that the text is one JSON value and returns it. */
  static String checkDocument(String text) {
    try (JsonParser parser = FACTORY.createParser(text)) {
      if (parser.nextToken() == null) {
        throw new InvalidInputException("the JSON text is empty");
      }
      parser.skipChildren();
      if (parser.nextToken() != null) {
        throw new InvalidInputException(Values.quote(text) + " is more than one JSON value");
      }
      return text;
    } catch (JsonProcessingException e) {
      throw new InvalidInputException(
          Values.quote(text) + " is not JSON: " + e.getOriginalMessage(), e);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /**
   * Parses one JSON value into maps, lists, strings, numbers ({@link Integer}, {@link Long}, {@link
   * java.math.BigInteger}, {@link BigDecimal}), booleans and null.
   */
  public static Object parse(String text) {
    try (JsonParser parser = FACTORY.createParser(text)) {
      if (parser.nextToken() == null) {
        throw new InvalidInputException("the JSON text is empty");
      }
      Object value = STRICT.anyFrom(parser);
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

  /** Writes maps, lists, strings, numbers, booleans and null on one line. */
  public static String write(Object value) {
    try {
      return STRICT.asString(value);
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
  public static Object fromJson(Object json, Type type) {
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
    boolean numeric =
        type instanceof Type.Decimal
            || type == Types.INTEGER
            || type == Types.BIGINT
            || type == Types.REAL
            || type == Types.DOUBLE;
    if (!type.isNested()
        && (json instanceof String || (numeric && json instanceof Number))
        && !(type.isText() && !(json instanceof String))) {
      return ValueText.parse(json instanceof BigDecimal d ? d.toPlainString() : "" + json, type);
    }
    throw new InvalidInputException(Values.show(shown(json)) + " is not a value of " + type);
  }

  private static Object shown(Object json) {
    return json instanceof String ? json : write(json);
  }

  private static Object fieldFromJson(Object json, Field field) {
    return json == null ? Values.acceptField(null, field) : fromJson(json, field.type());
  }

  private static Row structFromJson(Map<?, ?> object, Type.Struct struct) {
    for (Object name : object.keySet()) {
      if (struct.indexOf((String) name) < 0) {
        throw new InvalidInputException(
            "field %s is not one of %s.%s"
                .formatted(
                    name,
                    struct,
                    Names.didYouMean(
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

  private static Map<Object, Object> mapFromJson(Object json, Type.MapOf map) {
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
  public static Object toJson(Object value, Type type) {
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
