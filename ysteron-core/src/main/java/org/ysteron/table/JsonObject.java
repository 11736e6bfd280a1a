package org.ysteron.table;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Json;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;

/**
 * Reads the members of a stored JSON object; one that is missing or of another kind is damage.
 *
 * @param members the object
 */
public record JsonObject(Map<?, ?> members) {

  /** Parses a stored object. */
  static JsonObject parse(byte[] utf8) {
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

  /** The objects of an array. */
  List<JsonObject> objects(String name) {
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
