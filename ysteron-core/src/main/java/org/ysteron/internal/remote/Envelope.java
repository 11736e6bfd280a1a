package org.ysteron.internal.remote;

import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.Map;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Json;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.internal.bytes.Positions;
import org.ysteron.internal.json.JsonObject;

/** The form in which values go from one machine to another: a JSON object that says what it is. */
final class Envelope {
  private static final int FORM = 1;

  private Envelope() {}

  static Map<String, Object> of(String kind) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("ysteron", kind);
    json.put("form", FORM);
    return json;
  }

  static byte[] write(Map<String, Object> json) {
    return Json.write(json).getBytes(StandardCharsets.UTF_8);
  }

  /**
   * Reads what {@link #write} wrote.
   *
   * @throws InvalidInputException when it is something else
   */
  static JsonObject read(byte[] bytes, String kind) {
    return read(bytes, kind, FORM);
  }

  /**
   * Reads what {@link #write} wrote.
   *
   * @param newest the newest form that is known
   * @throws InvalidInputException when it is something else
   */
  static JsonObject read(byte[] bytes, String kind, int newest) {
    JsonObject json;
    boolean ours;
    try {
      json = JsonObject.parse(bytes);
      ours = json.has("ysteron") && json.text("ysteron").equals(kind);
    } catch (RuntimeException e) {
      throw wrong(kind, e);
    }
    if (!ours) {
      throw wrong(kind, null);
    }
    if (json.number("form") < FORM || json.number("form") > newest) {
      throw new UnsupportedLakeException(
          "This %s has form %d, which this program does not know. Use a newer Ysteron."
              .formatted(word(kind), json.number("form")));
    }
    return json;
  }

  static InvalidInputException wrong(String kind, Throwable cause) {
    return new InvalidInputException(
        "These bytes are not a complete %s. Create it again at its source.".formatted(word(kind)),
        cause);
  }

  /** What people call a kind. */
  private static String word(String kind) {
    return kind.equals(StagedChangeForm.KIND) ? "staged change" : kind;
  }

  static String text(byte[] bytes) {
    return Base64.getEncoder().encodeToString(bytes);
  }

  static byte[] bytes(String text, String kind) {
    try {
      return Base64.getDecoder().decode(text);
    } catch (IllegalArgumentException e) {
      throw wrong(kind, e);
    }
  }

  static String positions(RoaringBitmap positions) {
    return text(Positions.write(positions));
  }

  static RoaringBitmap positions(String text, String kind) {
    return Positions.read(bytes(text, kind));
  }
}
