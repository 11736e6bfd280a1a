package org.ysteron.intake;

import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.JsonToken;
import java.io.FilterReader;
import java.io.IOException;
import java.io.Reader;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Json;
import org.ysteron.error.InvalidInputException;

/** JSON objects in a text, one after another (most often one a line), or in one array. */
final class JsonRows {
  private static final int MOST_CHARACTERS = 1 << 24;

  /** Takes rows; what it returns says whether there shall be more. */
  @FunctionalInterface
  interface Target {
    boolean row(long line, Map<String, @Nullable Object> members);
  }

  /** Says that a line is wrong. */
  @FunctionalInterface
  interface Wrong {
    InvalidInputException of(long line, String what, @Nullable Throwable cause);
  }

  private JsonRows() {}

  /** Hands all objects to a target. */
  static void read(Reader text, Target target, Wrong wrong) throws IOException {
    Allowance allowance = new Allowance(text);
    JsonParser parser = Json.parser(allowance);
    long line = 1;
    try (parser) {
      boolean inArray = false;
      boolean more = true;
      while (more) {
        allowance.renew();
        JsonToken token = parser.nextToken();
        if (token == null) {
          return;
        }
        line = parser.currentTokenLocation().getLineNr();
        if (token == JsonToken.START_ARRAY && !inArray) {
          inArray = true;
        } else if (token == JsonToken.END_ARRAY) {
          inArray = false;
        } else if (token == JsonToken.START_OBJECT) {
          more = target.row(line, members(parser, line, wrong));
        } else {
          throw wrong.of(line, "it is not a JSON object.", null);
        }
      }
    } catch (JsonProcessingException e) {
      long at = e.getLocation() == null ? line : e.getLocation().getLineNr();
      throw wrong.of(at, "it is not JSON: " + e.getOriginalMessage() + ".", e);
    }
  }

  private static Map<String, @Nullable Object> members(JsonParser parser, long line, Wrong wrong)
      throws IOException {
    try {
      Map<String, @Nullable Object> members = new LinkedHashMap<>();
      Map<?, ?> object = (Map<?, ?>) Objects.requireNonNull(Json.read(parser));
      object.forEach((name, value) -> members.put((String) name, value));
      return members;
    } catch (TooLongException e) {
      throw wrong.of(line, "one object has more than %d characters.".formatted(MOST_CHARACTERS), e);
    } catch (InvalidInputException e) {
      throw wrong.of(line, e.getMessage() + ".", e);
    }
  }

  private static final class TooLongException extends IOException {
    private static final long serialVersionUID = 1L;
  }

  /** Lets through only so many characters before the next object. */
  private static final class Allowance extends FilterReader {
    private long left;

    Allowance(Reader text) {
      super(text);
      renew();
    }

    void renew() {
      left = MOST_CHARACTERS;
    }

    @Override
    public int read(char[] target, int start, int length) throws IOException {
      int read = super.read(target, start, length);
      left -= Math.max(0, read);
      if (left < 0) {
        throw new TooLongException();
      }
      return read;
    }
  }
}
