package org.ysteron.internal.compute;

import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Json;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.typing.JsonPath;

/**
 * JSON_VALUE and JSON_EXISTS by a {@link JsonPath}. A member of an array is that of its only
 * element; what is not there, or is no scalar, is null.
 */
final class JsonKernel extends Kernel {
  private final Kernel of;
  private final List<Object> path;

  JsonKernel(Kernel of, String path, Type type) {
    super(type);
    this.of = of;
    this.path = JsonPath.parse(path);
  }

  @Override
  public Held eval(Rows rows) {
    Held from = of.eval(rows);
    boolean exists = type == Types.BOOLEAN;
    out.begin(rows, Held.form(type), from);
    for (int j = 0; j < rows.count(); j++) {
      int i = rows.selected()[j];
      if (out.isNull(i)) {
        continue;
      }
      Found found = find(from, i);
      if (exists) {
        out.longs[i] = found.there ? 1 : 0;
      } else if (found.value == null || found.value instanceof Map || found.value instanceof List) {
        out.setNull(i);
      } else {
        byte[] text = text(found.value).getBytes(StandardCharsets.UTF_8);
        out.copy(i, text, 0, text.length);
      }
    }
    return out;
  }

  private static String text(Object value) {
    return value instanceof BigDecimal number ? Decimals.show(number) : value.toString();
  }

  private record Found(boolean there, Object value) {
    static final Found NOTHING = new Found(false, null);
  }

  private Found find(Held from, int row) {
    String text =
        new String(from.data, from.starts[row], from.lengths[row], StandardCharsets.UTF_8);
    Object value;
    try {
      value = Json.parse(text);
    } catch (InvalidInputException e) {
      throw failure(row, e.getMessage());
    }
    for (Object step : path) {
      if (step instanceof String name) {
        if (value instanceof List<?> list && list.size() == 1) {
          value = list.get(0);
        }
        if (!(value instanceof Map<?, ?> map) || !map.containsKey(name)) {
          return Found.NOTHING;
        }
        value = map.get(name);
      } else {
        int at = (Integer) step;
        List<?> list = value instanceof List<?> given ? given : java.util.Arrays.asList(value);
        if (at < 0 || at >= list.size()) {
          return Found.NOTHING;
        }
        value = list.get(at);
      }
    }
    return new Found(true, value);
  }
}
