package org.ysteron.internal.form;

import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Widening;
import org.ysteron.error.NotFoundException;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.Check;
import org.ysteron.option.LayoutPlan;

/**
 * What makes one form into another: a list of alterations which, applied to the first, give the
 * second, apart from the ids. Of two versions of a table columns are the same when their ids are,
 * of two tables when their names are. What no alteration can do (a narrower type, say) is a column
 * dropped and another one added.
 */
public final class FormComparison {
  private final boolean byId;
  private final TableForm target;
  private final FormEditor editor;
  private final List<Alteration> changes = new ArrayList<>();

  private FormComparison(TableForm from, TableForm target, boolean byId) {
    this.byId = byId;
    this.target = target;
    this.editor = new FormEditor(from, TableNumbers.of(from));
  }

  /** From one version of a table to another one of the same table. */
  public static List<Alteration> ofVersions(TableForm from, TableForm to) {
    return new FormComparison(from, to, true).compare();
  }

  /** From one table to another one. */
  public static List<Alteration> ofTables(TableForm from, TableForm to) {
    return new FormComparison(from, to, false).compare();
  }

  private Schema now() {
    return editor.form().schema();
  }

  private void apply(Alteration alteration) {
    editor.apply(alteration);
    changes.add(alteration);
  }

  private List<Alteration> compare() {
    TableForm from = editor.form();
    Schema wanted = target.schema();
    for (Check check : from.checks()) {
      // Checks are compared by what they say; those that stay in the way come back at the end.
      if (!target.checks().contains(check)) {
        apply(new Alteration.DropCheck(check.name()));
      }
    }
    if (!from.layout().fieldIds().stream().allMatch(this::staysAsItIs)) {
      apply(new Alteration.SetLayout(LayoutPlan.none()));
    }
    if (!now().key().isEmpty() && !keepsKey()) {
      apply(new Alteration.SetKey(List.of()));
    }
    fields("", wanted.columns());
    if (!now().key().equals(wanted.key())) {
      apply(new Alteration.SetKey(wanted.key()));
    }
    tighten(wanted.columns(), "");
    Optional<String> leftovers =
        target.leftoversColumn().map(field -> Schema.path(List.of(field.name())));
    Optional<String> had =
        editor.form().leftoversColumn().map(field -> Schema.path(List.of(field.name())));
    if (!leftovers.equals(had)) {
      apply(new Alteration.SetLeftovers(leftovers));
    }
    for (Check check : target.checks()) {
      if (!editor.form().checks().contains(check)) {
        editor.form().check(check.name()).ifPresent(c -> apply(new Alteration.DropCheck(c.name())));
        apply(new Alteration.AddCheck(check.name(), check.condition()));
      }
    }
    if (!editor.form().layout().text(now()).equals(target.layout().text(wanted))) {
      apply(new Alteration.SetLayout(target.layout().plan(wanted)));
    }
    return changes;
  }

  /** Whether a column, at any depth, needs not be dropped. */
  private boolean staysAsItIs(int id) {
    Type type = now().field(id).orElseThrow().type();
    if (byId) {
      return target.schema().field(id).filter(to -> isReachable(type, to.type())).isPresent();
    }
    try {
      return isReachable(type, target.schema().find(now().pathOf(id)).type());
    } catch (NotFoundException e) {
      return false;
    }
  }

  /** Whether the columns of the key stay, and are the key of the target. */
  private boolean keepsKey() {
    List<String> kept = new ArrayList<>();
    for (int id : now().keyIds()) {
      Field field = now().field(id).orElseThrow();
      same(target.schema().columns(), field)
          .filter(to -> isReachable(field.type(), to.type()))
          .ifPresent(to -> kept.add(to.name()));
    }
    return kept.equals(target.schema().key());
  }

  private List<Field> children(String parent) {
    return parent.isEmpty() ? now().columns() : Schema.children(now().find(parent).type());
  }

  private Optional<Field> same(List<Field> fields, Field other) {
    return fields.stream()
        .filter(f -> byId ? f.id() == other.id() : f.name().equals(other.name()))
        .findFirst();
  }

  /** Whether a field can be made into another by alterations. */
  private static boolean isReachable(Type from, Type to) {
    return from.isNested()
        ? from.getClass() == to.getClass() && partsAreReachable(from, to)
        : Widening.isExact(from, to);
  }

  private static boolean partsAreReachable(Type from, Type to) {
    if (from instanceof Type.ListOf a && to instanceof Type.ListOf b) {
      return isReachable(a.element().type(), b.element().type());
    }
    if (from instanceof Type.MapOf a && to instanceof Type.MapOf b) {
      return a.key().type().equals(b.key().type())
          && isReachable(a.value().type(), b.value().type());
    }
    return true; // of a struct fields come and go
  }

  private void fields(String parent, List<Field> wanted) {
    List<Field> had = children(parent);
    List<Field> gone = new ArrayList<>();
    for (Field field : had) {
      boolean stays =
          wanted.stream()
              .anyMatch(
                  w -> same(List.of(field), w).isPresent() && isReachable(field.type(), w.type()));
      if (!stays) {
        gone.add(field);
      }
    }
    if (gone.size() == had.size()) {
      // One at least must stay until another one is there.
      Field last = gone.remove(gone.size() - 1);
      String spare = spareName(parent, wanted);
      apply(new Alteration.RenameColumn(Schema.below(parent, last.name()), spare));
      gone.forEach(field -> apply(new Alteration.DropColumn(Schema.below(parent, field.name()))));
      settle(parent, wanted);
      apply(new Alteration.DropColumn(Schema.below(parent, spare)));
      order(parent, wanted);
      return;
    }
    gone.forEach(field -> apply(new Alteration.DropColumn(Schema.below(parent, field.name()))));
    settle(parent, wanted);
    order(parent, wanted);
  }

  private String spareName(String parent, List<Field> wanted) {
    String name = "was";
    while (isNamed(children(parent), name) || isNamed(wanted, name)) {
      name += "_";
    }
    return name;
  }

  private static boolean isNamed(List<Field> fields, String name) {
    return fields.stream().anyMatch(field -> field.name().equals(name));
  }

  /** Names, types, defaults and comments of what stays, then what is new. */
  private void settle(String parent, List<Field> wanted) {
    for (Field target : wanted) {
      Field field = same(children(parent), target).orElse(null);
      if (field == null || !isReachable(field.type(), target.type())) {
        continue;
      }
      if (!field.name().equals(target.name())) {
        if (isNamed(children(parent), target.name())) {
          apply(
              new Alteration.RenameColumn(
                  Schema.below(parent, target.name()), spareName(parent, wanted)));
        }
        apply(new Alteration.RenameColumn(Schema.below(parent, field.name()), target.name()));
      }
      alter(Schema.below(parent, target.name()), target);
    }
    for (int i = 0; i < wanted.size(); i++) {
      if (!isNamed(children(parent), wanted.get(i).name())) {
        Place place = i == 0 ? Place.FIRST : Place.after(wanted.get(i - 1).name());
        apply(new Alteration.AddColumn(parent, bare(wanted.get(i)), place));
      }
    }
  }

  /** A field as one that is new: only its default for writers counts. */
  private static Field bare(Field field) {
    return new Field(
        0,
        field.name(),
        field.type(),
        field.required(),
        field.writeDefault(),
        field.computedDefault(),
        Optional.empty(),
        field.comment());
  }

  private void alter(String path, Field target) {
    Field field = now().find(path);
    if (target.type() instanceof Type.Struct struct) {
      fields(path, struct.fields());
    } else if (target.type() instanceof Type.ListOf list) {
      alter(path + ".element", list.element());
    } else if (target.type() instanceof Type.MapOf map) {
      alter(path + ".value", map.value());
    } else if (!field.type().equals(target.type())) {
      apply(new Alteration.WidenColumn(path, target.type()));
    }
    if (field.required() && !target.required()) {
      apply(new Alteration.SetRequired(path, false));
    }
    if (!Objects.equals(now().find(path).standard(), target.standard())) {
      apply(new Alteration.SetDefault(path, Optional.ofNullable(target.standard())));
    }
    if (!field.comment().equals(target.comment())) {
      apply(new Alteration.SetComment(path, target.comment()));
    }
  }

  private void order(String parent, List<Field> wanted) {
    for (int i = 0; i < wanted.size(); i++) {
      String name = wanted.get(i).name();
      if (!children(parent).get(i).name().equals(name)) {
        Place place = i == 0 ? Place.FIRST : Place.after(wanted.get(i - 1).name());
        apply(new Alteration.MoveColumn(Schema.below(parent, name), place));
      }
    }
  }

  private void tighten(List<Field> wanted, String parent) {
    for (Field target : wanted) {
      String path = Schema.below(parent, target.name());
      if (target.required() && !now().find(path).required()) {
        apply(new Alteration.SetRequired(path, true));
      }
      tighten(Schema.children(target.type()), path);
    }
  }
}
