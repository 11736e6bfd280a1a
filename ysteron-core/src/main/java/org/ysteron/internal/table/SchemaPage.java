package org.ysteron.internal.table;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Check;

/**
 * A large schema with its checks in a page of its own, so that a version that leaves it as it is
 * only refers to it.
 *
 * @param table the table's id
 * @param form the schema, the checks and the column for leftovers, without a layout
 */
record SchemaPage(UUID table, TableForm form) implements JsonPage.Content {
  private static final int LARGE = 4 << 10;
  private static final int BYTES_OF_A_FIELD = 60;

  private static volatile int large = LARGE;

  /** Sets from which size on a schema has a page of its own, for tests; 0 for what it is. */
  static void makeAbove(int bytes) {
    large = bytes == 0 ? LARGE : bytes;
  }

  /** Whether a schema is to have a page of its own. */
  static boolean isWanted(TableForm form) {
    long bytes = weight(form.schema().columns());
    for (Check check : form.checks()) {
      bytes += 2L * check.condition().toString().length();
    }
    return bytes > large;
  }

  private static long weight(List<Field> fields) {
    long bytes = 0;
    for (Field field : fields) {
      bytes += BYTES_OF_A_FIELD + field.name().length() + field.comment().length();
      bytes += weight(Schema.children(field.type()));
    }
    return bytes;
  }

  static PageRef write(UUID table, TableForm form, PageBatch batch) {
    return JsonPage.write(
        new SchemaPage(table, form.withLayout(Layout.NONE, 0)), SchemaPage::parse, batch);
  }

  static SchemaPage read(PageRef ref, PageStore pages) {
    return JsonPage.read(ref, pages, SchemaPage.class, SchemaPage::parse);
  }

  private static SchemaPage parse(JsonPage page) {
    JsonObject json = page.json("schema");
    return new SchemaPage(
        json.uuid("table"),
        TableForm.fromJson(
            json.object("schema"),
            json.number("schema version"),
            new JsonObject(Layout.NONE.toJson()),
            0));
  }

  @Override
  public Map<String, Object> toJson(PagePlace place) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "schema");
    json.put("table", table.toString());
    json.put("schema version", form.schemaVersion());
    json.put("schema", form.schemaJson());
    return json;
  }
}
