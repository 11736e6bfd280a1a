package org.ysteron.cli;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.LakeHandle;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.internal.text.Visible;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** {@code ysteron schema}. */
@Command(
    name = "schema",
    description = "List the columns of a table.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron schema tide.readings --at 2")
final class SchemaCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @Mixin private AtOption at;
  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    TableView view = at.view(opened, table);
    Listing list =
        listing.isText()
            ? listing.listing(out(), "column", "type", "null", "key", "default", "id", "comment")
            : listing.listing(
                out(), "column", "type", "not null", "key", "default", "id", "comment");
    for (Field column : view.schema().columns()) {
      print(column, new ArrayList<>(), view.schema(), list);
    }
    list.end();
    if (listing.isText()) {
      view.checks().forEach(check -> out().println(Visible.of(check.toString())));
      view.leftoversColumn()
          .ifPresent(
              column -> out().println("Values without a column go to " + column.name() + "."));
      out()
          .println(
              "Schema %d; layout %d: %s."
                  .formatted(view.schemaVersion(), view.layoutVersion(), view.layout()));
    }
  }

  private void print(Field field, List<String> above, Schema schema, Listing list) {
    List<String> path = new ArrayList<>(above);
    path.add(field.name());
    int key = schema.keyIds().indexOf(field.id());
    Optional<Integer> inKey = key < 0 ? Optional.empty() : Optional.of(key + 1);
    if (listing.isText()) {
      list.row(
          Schema.path(path),
          shown(field.type()),
          field.required() ? "NOT NULL" : "",
          inKey.map(String::valueOf).orElse(""),
          field.defaultText().orElse(""),
          field.id(),
          field.comment());
    } else {
      list.row(
          Schema.path(path),
          shown(field.type()),
          field.required(),
          inKey.orElse(null),
          field.defaultText().orElse(null),
          field.id(),
          field.comment().isEmpty() ? null : field.comment());
    }
    boolean plain =
        !(field.type() instanceof Type.Struct)
            && Schema.children(field.type()).stream().noneMatch(inner -> inner.type().isNested());
    if (!plain) {
      Schema.children(field.type()).forEach(inner -> print(inner, path, schema, list));
    }
  }

  /** A struct's fields have lines of their own. */
  private static String shown(Type type) {
    if (type instanceof Type.Struct) {
      return "ROW";
    }
    return type instanceof Type.ListOf list && list.element().type() instanceof Type.Struct
        ? "ROW ARRAY"
        : type.toString();
  }
}
