package org.ysteron.internal.form;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.json.SchemaJson;
import org.ysteron.internal.json.ShortForms;
import org.ysteron.internal.layout.Layout;
import org.ysteron.option.Check;

/**
 * What rows a table takes and how it lays them out. Immutable.
 *
 * @param schema the columns
 * @param checks what else holds for every row
 * @param leftovers the id of the column for what the schema does not know; 0 for none
 * @param schemaVersion counts the schemas, from 0; checks and leftovers belong to them
 * @param layout how rows are spread over files
 * @param layoutVersion counts the layouts, from 0
 */
public record TableForm(
    Schema schema,
    List<Check> checks,
    int leftovers,
    long schemaVersion,
    Layout layout,
    long layoutVersion) {

  public TableForm {
    checks = List.copyOf(checks);
  }

  /** The form of a new table. */
  public static TableForm of(Schema schema, Layout layout) {
    return new TableForm(Defaults.bound(schema), List.of(), 0, 0, layout, 0);
  }

  /** The column for what the schema does not know. */
  public Optional<Field> leftoversColumn() {
    return schema.field(leftovers);
  }

  /** A check by name. */
  public Optional<Check> check(String name) {
    return checks.stream().filter(check -> check.name().equals(name)).findFirst();
  }

  /** Whether something in it has a form that was not there before there were expressions. */
  public boolean usesExpressions() {
    return schema.columns().stream().anyMatch(column -> column.computedDefault().isPresent())
        || checks.stream().anyMatch(check -> !ShortForms.isShort(check.condition()));
  }

  /** This form with another schema, whose checks go by its names; versions stay. */
  public TableForm withSchema(Schema changed) {
    List<Check> renamed = new ArrayList<>();
    checks.forEach(check -> renamed.add(Checks.under(check, schema, changed)));
    int kept = changed.field(leftovers).isPresent() ? leftovers : 0;
    return new TableForm(changed, renamed, kept, schemaVersion, layout, layoutVersion);
  }

  TableForm withChecks(List<Check> changed) {
    return new TableForm(schema, changed, leftovers, schemaVersion, layout, layoutVersion);
  }

  TableForm withLeftovers(int fieldId) {
    return new TableForm(schema, checks, fieldId, schemaVersion, layout, layoutVersion);
  }

  public TableForm withLayout(Layout changed) {
    return new TableForm(schema, checks, leftovers, schemaVersion, changed, layoutVersion);
  }

  /** This form, whose next columns get ids that no line of the table has given out. */
  TableForm givingFrom(TableNumbers numbers) {
    int last = (int) Math.max(schema.lastId(), numbers.column() - 1);
    Schema giving = Schema.stored(schema.columns(), schema.keyIds(), last);
    return new TableForm(giving, checks, leftovers, schemaVersion, layout, layoutVersion);
  }

  /** Whether the same rows are taken, apart from how they are laid out. */
  boolean takesAlike(TableForm other) {
    return schema.struct().equals(other.schema.struct())
        && schema.keyIds().equals(other.schema.keyIds())
        && checks.equals(other.checks)
        && leftovers == other.leftovers;
  }

  /** This form as the one that follows another; new versions are what the table gives out next. */
  public TableForm after(TableForm before, TableNumbers numbers) {
    return new TableForm(
        schema,
        checks,
        leftovers,
        takesAlike(before) ? before.schemaVersion : numbers.schema(),
        layout,
        layout.equals(before.layout) ? before.layoutVersion : numbers.layout());
  }

  /** The same with another layout. */
  public TableForm withLayout(Layout other, long otherVersion) {
    return new TableForm(schema, checks, leftovers, schemaVersion, other, otherVersion);
  }

  public Map<String, Object> schemaJson() {
    Map<String, Object> json = new LinkedHashMap<>(SchemaJson.toJson(schema));
    if (!checks.isEmpty()) {
      json.put("checks", checks.stream().map(check -> Checks.toJson(check, schema)).toList());
    }
    if (leftovers != 0) {
      json.put("leftovers", leftovers);
    }
    return json;
  }

  public static TableForm fromJson(
      JsonObject schemaJson, long schemaVersion, JsonObject layoutJson, long layoutVersion) {
    Schema schema = SchemaJson.fromJson(schemaJson.members());
    List<Check> checks = new ArrayList<>();
    if (schemaJson.has("checks")) {
      schemaJson.objects("checks").forEach(check -> checks.add(Checks.fromJson(check, schema)));
    }
    int leftovers = schemaJson.has("leftovers") ? (int) schemaJson.number("leftovers") : 0;
    return new TableForm(
        schema, checks, leftovers, schemaVersion, Layout.fromJson(layoutJson), layoutVersion);
  }
}
