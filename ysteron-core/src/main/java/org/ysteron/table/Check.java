package org.ysteron.table;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.ysteron.data.Schema;
import org.ysteron.data.SqlNames;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Conditions;
import org.ysteron.expr.Filter;

/**
 * A constraint on the rows of a table: a condition that is false for none of them. As in SQL, a row
 * for which it is unknown is let in.
 *
 * @param name its name, unique in the table
 * @param condition the condition
 */
public record Check(String name, Condition condition) {

  /** Passed by the rows that break it. */
  public Filter violation(Schema schema) {
    return Filter.bind(condition.not(), schema);
  }

  /** The ids of its columns. */
  public Set<Integer> fieldIds(Schema schema) {
    Set<Integer> ids = new TreeSet<>();
    Conditions.columns(condition).forEach(path -> ids.add(schema.find(path).id()));
    return ids;
  }

  /** The same under the names of a later schema. */
  Check under(Schema before, Schema after) {
    return new Check(
        name, Conditions.renamed(condition, path -> after.pathOf(before.find(path).id())));
  }

  Map<String, Object> toJson(Schema schema) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("name", name);
    json.put("text", condition.toString());
    json.put("condition", Conditions.toJson(condition, schema));
    return json;
  }

  static Check fromJson(JsonObject json, Schema schema) {
    return new Check(
        json.text("name"), Conditions.fromJson(json.object("condition").members(), schema));
  }

  /** As SQL writes it. */
  @Override
  public String toString() {
    return "CONSTRAINT " + SqlNames.of(name) + " CHECK (" + condition + ")";
  }
}
