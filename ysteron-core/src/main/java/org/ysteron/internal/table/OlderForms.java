package org.ysteron.internal.table;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import org.ysteron.data.Json;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;

/** The trees of schemas and layouts that a table had before those of a version. */
final class OlderForms {
  private OlderForms() {}

  static PageTree<FormRecord, RecordFormat.Span> tree(
      FormRecord.Format format, PageTree.Root root, PageStore pages) {
    return new PageTree<>(pages, format, root);
  }

  static List<Edit<FormRecord>> put(long number, long last, Map<String, Object> json) {
    FormRecord older = new FormRecord(number, last, Json.write(json));
    return List.of(Edit.put(older.key(), older));
  }

  static PageTree.Root without(
      PageTree<FormRecord, RecordFormat.Span> forms, Collection<Long> numbers, PageBatch batch) {
    List<Edit<FormRecord>> edits = new ArrayList<>();
    for (long number : new TreeSet<>(numbers)) {
      byte[] key = VersionPage.versionKey(number);
      if (forms.get(key).isPresent()) {
        edits.add(Edit.remove(key));
      }
    }
    return edits.isEmpty() ? forms.root() : forms.apply(edits, batch).root();
  }

  /** All layouts that the table has at a version, or had before it, by number. */
  static Map<Long, Layout> layouts(VersionPage page, PageStore pages) {
    Map<Long, Layout> layouts = new TreeMap<>();
    if (page.olderLayouts().count() > 0) {
      TreeCursor<FormRecord, RecordFormat.Span> cursor =
          tree(FormRecord.Format.LAYOUTS, page.olderLayouts(), pages).cursor();
      while (cursor.next()) {
        layouts.put(cursor.value().number(), Layout.fromJson(json(cursor.value())));
      }
    }
    layouts.put(page.layoutVersion(), page.form().layout());
    return layouts;
  }

  /** The forms before that of a version, whose layouts are none. */
  static List<TableForm> forms(VersionPage page, PageStore pages) {
    List<TableForm> forms = new ArrayList<>();
    TreeCursor<FormRecord, RecordFormat.Span> cursor =
        tree(FormRecord.Format.SCHEMAS, page.olderSchemas(), pages).cursor();
    JsonObject none = new JsonObject(Layout.NONE.toJson());
    while (cursor.next()) {
      FormRecord form = cursor.value();
      forms.add(TableForm.fromJson(json(form), form.number(), none, 0));
    }
    return forms;
  }

  private static JsonObject json(FormRecord older) {
    return JsonObject.parse(older.json().getBytes(StandardCharsets.UTF_8));
  }
}
