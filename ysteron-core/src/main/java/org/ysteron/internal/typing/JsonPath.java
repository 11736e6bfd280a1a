package org.ysteron.internal.typing;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;

/**
 * Lax paths of ISO SQL/JSON (ISO/IEC 9075-2): {@code $}, members ({@code .name}, {@code ."a name"})
 * and elements ({@code [0]}).
 */
public final class JsonPath {
  private JsonPath() {}

  /**
   * Parses a path.
   *
   * @return a String for each member, an Integer for each element
   */
  public static List<Object> parse(String path) {
    String rest = path.strip();
    rest = rest.startsWith("lax ") ? rest.substring(4).strip() : rest;
    if (!rest.startsWith("$")) {
      throw wrong(path);
    }
    List<Object> steps = new ArrayList<>();
    int at = 1;
    while (at < rest.length()) {
      char c = rest.charAt(at);
      int end;
      if (c == '.' && at + 1 < rest.length() && rest.charAt(at + 1) == '"') {
        end = rest.indexOf('"', at + 2);
        if (end < 0) {
          throw wrong(path);
        }
        steps.add(rest.substring(at + 2, end));
        end++;
      } else if (c == '.') {
        end = at + 1;
        while (end < rest.length() && isOfName(rest.charAt(end))) {
          end++;
        }
        if (end == at + 1) {
          throw wrong(path);
        }
        steps.add(rest.substring(at + 1, end));
      } else if (c == '[') {
        end = rest.indexOf(']', at);
        try {
          steps.add(Integer.valueOf(Decimals.whole(end < 0 ? "" : rest.substring(at + 1, end))));
        } catch (NumberFormatException e) {
          throw wrong(path);
        }
        end++;
      } else {
        throw wrong(path);
      }
      at = end;
    }
    return steps;
  }

  private static boolean isOfName(char c) {
    return c != '.' && c != '[' && c != '"' && !Character.isWhitespace(c);
  }

  private static InvalidInputException wrong(String path) {
    return new InvalidInputException(
        "%s is not a JSON path. A path is $ with .member and [0] behind it, as in '$.health.battery'."
            .formatted(Values.quote(path)));
  }
}
