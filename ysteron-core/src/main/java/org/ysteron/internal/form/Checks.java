package org.ysteron.internal.form;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.ysteron.data.Schema;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.json.ConditionJson;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.option.Check;

/** What a check is for a schema. */
public final class Checks {
  private Checks() {}

  /** Passed by the rows that break it. */
  public static Filter violation(Check check, Schema schema) {
    return Filter.bind(check.condition().not(), schema);
  }

  /** The ids of its columns. */
  public static Set<Integer> fieldIds(Check check, Schema schema) {
    Set<Integer> ids = new TreeSet<>();
    check.condition().columns().forEach(path -> ids.add(schema.find(path).id()));
    return ids;
  }

  /** The same under the names of a later schema. */
  static Check under(Check check, Schema before, Schema after) {
    return new Check(
        check.name(), check.condition().renamed(path -> after.pathOf(before.find(path).id())));
  }

  static Map<String, Object> toJson(Check check, Schema schema) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("name", check.name());
    json.put("text", check.condition().toString());
    json.put("condition", ConditionJson.toJson(check.condition(), schema));
    return json;
  }

  /** Reads a check; of one whose form is not known the text is kept, which nobody can test. */
  static Check fromJson(JsonObject json, Schema schema) {
    Map<?, ?> stored = json.object("condition").members();
    Condition condition;
    try {
      condition = ConditionJson.fromJson(stored, schema);
    } catch (YsteronException e) {
      condition = new Condition.Unknown(json.has("text") ? json.text("text") : "?", stored);
    }
    return new Check(json.text("name"), condition);
  }
}
