package org.ysteron.internal.json;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.data.Type;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;

/**
 * Reads the members of a stored JSON object; one that is missing or of another kind is damage.
 *
 * @param members the object
 */
public record JsonObject(Map<?, ?> members) {

  /** Parses a stored object. */
  public static JsonObject parse(byte[] utf8) {
    try {
      return new JsonObject((Map<?, ?>) Json.parse(new String(utf8, StandardCharsets.UTF_8)));
    } catch (InvalidInputException | ClassCastException e) {
      throw new DamagedException("A page is not a JSON object.", e);
    }
  }

  private <T> T member(String name, Class<T> javaClass) {
    Object value = members.get(name);
    if (!javaClass.isInstance(value)) {
      throw new DamagedException(
          "A stored record has %s for its member \"%s\".".formatted(value, name));
    }
    return javaClass.cast(value);
  }

  /** The name of the first member, by which lines tell what they are; empty without members. */
  public String kind() {
    return members.isEmpty() ? "" : (String) members.keySet().iterator().next();
  }

  /** Whether there is such a member. */
  public boolean has(String name) {
    return members.containsKey(name);
  }

  public String text(String name) {
    return member(name, String.class);
  }

  public long number(String name) {
    return member(name, Number.class).longValue();
  }

  public boolean flag(String name) {
    return member(name, Boolean.class);
  }

  public UUID uuid(String name) {
    try {
      return UUID.fromString(text(name));
    } catch (IllegalArgumentException e) {
      throw new DamagedException("A stored record has no UUID for \"" + name + "\".", e);
    }
  }

  public JsonObject object(String name) {
    return new JsonObject(member(name, Map.class));
  }

  public List<?> list(String name) {
    return member(name, List.class);
  }

  /** Bytes in hexadecimal digits. */
  public byte[] bytes(String name) {
    try {
      return HexFormat.of().parseHex(text(name));
    } catch (IllegalArgumentException e) {
      throw new DamagedException("A stored record has no bytes for \"" + name + "\".", e);
    }
  }

  /** A time in the form of RFC 3339. */
  public Instant time(String name) {
    try {
      return Instant.parse(text(name));
    } catch (DateTimeParseException e) {
      throw new DamagedException("A stored record has no time for \"" + name + "\".", e);
    }
  }

  /** A list of values of a type. */
  public List<Object> values(String name, Type type) {
    return values(list(name), type);
  }

  /** The values of a type that a JSON list stands for. */
  public static List<Object> values(List<?> json, Type type) {
    List<Object> values = new ArrayList<>();
    json.forEach(value -> values.add(Json.fromJson(value, type)));
    return values;
  }

  /** All members but some. */
  public Map<String, Object> except(String... names) {
    Map<String, Object> others = new LinkedHashMap<>();
    members.forEach((name, value) -> others.put((String) name, value));
    others.keySet().removeAll(List.of(names));
    return Collections.unmodifiableMap(others);
  }

  /** Whether two JSON values are the same; numbers by what they are worth. */
  public static boolean areSame(Object one, Object other) {
    if (one instanceof Map<?, ?> a && other instanceof Map<?, ?> b) {
      return a.keySet().equals(b.keySet())
          && a.keySet().stream().allMatch(name -> areSame(a.get(name), b.get(name)));
    }
    if (one instanceof List<?> a && other instanceof List<?> b) {
      boolean same = a.size() == b.size();
      for (int i = 0; same && i < a.size(); i++) {
        same = areSame(a.get(i), b.get(i));
      }
      return same;
    }
    if (one instanceof Number a && other instanceof Number b) {
      return Decimals.of(a).compareTo(Decimals.of(b)) == 0;
    }
    return Objects.equals(one, other);
  }

  /** The objects of an array, which has at most so many. */
  public List<JsonObject> objects(String name, int most) {
    List<JsonObject> objects = objects(name);
    if (objects.size() > most) {
      throw new DamagedException(
          "A stored record has %d of \"%s\" where at most %d are possible."
              .formatted(objects.size(), name, most));
    }
    return objects;
  }

  /** The objects of an array. */
  public List<JsonObject> objects(String name) {
    return list(name).stream()
        .map(
            each -> {
              if (each instanceof Map<?, ?> object) {
                return new JsonObject(object);
              }
              throw new DamagedException("A stored record has " + each + " in \"" + name + "\".");
            })
        .toList();
  }
}
