package org.ysteron.internal.form;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.text.NearNames;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.Check;

/**
 * Applies alterations to a form, one after the other, and collects what must be proved of the rows.
 * No data file is touched: columns keep their ids, and files are read by id. For one thread.
 */
public final class FormEditor {
  private final List<Proof> proofs = new ArrayList<>();
  private TableForm form;

  /**
   * Starts.
   *
   * @param numbers what the table gives out next, to columns among others
   */
  public FormEditor(TableForm form, TableNumbers numbers) {
    this.form = form.givingFrom(numbers);
  }

  /** The form after what was applied; its versions are still those of the first. */
  public TableForm form() {
    return form;
  }

  /** What must hold for the rows there are. */
  public List<Proof> proofs() {
    return proofs;
  }

  /**
   * Applies one alteration.
   *
   * @throws InvalidInputException when it cannot be done; says why, and what can be done instead
   * @throws NotFoundException when a column does not exist
   */
  public void apply(Alteration alteration) {
    alteration.match(new Kinds()).run();
  }

  private final class Kinds implements Alteration.Cases<Runnable> {
    @Override
    public Runnable addColumn(Alteration.AddColumn add) {
      return () -> add(add.parent(), add.field(), add.place());
    }

    @Override
    public Runnable grow(Alteration.Grow grow) {
      return () -> FormEditor.this.grow(grow);
    }

    @Override
    public Runnable dropColumn(Alteration.DropColumn drop) {
      return () -> drop(drop.path());
    }

    @Override
    public Runnable renameColumn(Alteration.RenameColumn rename) {
      return () -> rename(rename.path(), rename.newName());
    }

    @Override
    public Runnable moveColumn(Alteration.MoveColumn move) {
      return () -> move(move.path(), move.place());
    }

    @Override
    public Runnable widenColumn(Alteration.WidenColumn widen) {
      return () -> widen(widen.path(), widen.type());
    }

    @Override
    public Runnable setRequired(Alteration.SetRequired set) {
      return () -> require(set.path(), set.required());
    }

    @Override
    public Runnable setDefault(Alteration.SetDefault set) {
      return () -> FormEditor.this.setDefault(set.path(), set.value());
    }

    @Override
    public Runnable setComment(Alteration.SetComment set) {
      return () -> {
        Field field = schema().find(set.path());
        Limits.text(set.text(), Limits.COMMENT, "comment of column " + set.path());
        edit(field.id(), old -> old.withComment(set.text()));
      };
    }

    @Override
    public Runnable setKey(Alteration.SetKey set) {
      return () -> FormEditor.this.setKey(set.columns());
    }

    @Override
    public Runnable addCheck(Alteration.AddCheck add) {
      return () -> FormEditor.this.addCheck(add);
    }

    @Override
    public Runnable dropCheck(Alteration.DropCheck drop) {
      return () -> FormEditor.this.dropCheck(drop.name());
    }

    @Override
    public Runnable setLeftovers(Alteration.SetLeftovers set) {
      return () ->
          form = form.withLeftovers(set.column().map(FormEditor.this::leftovers).orElse(0));
    }

    @Override
    public Runnable setLayout(Alteration.SetLayout set) {
      return () -> form = form.withLayout(LayoutText.bind(set.plan(), schema()));
    }

    @Override
    public Runnable setSetting(Alteration.SetSetting set) {
      throw new IllegalArgumentException(set + " is not of the form");
    }
  }

  /** Sets a layout whose columns are found already. */
  public void setLayout(Layout layout) {
    form = form.withLayout(layout);
  }

  private Schema schema() {
    return form.schema();
  }

  private void add(String parent, Field field, Place place) {
    Field bound = Defaults.bound(field);
    if (!parent.isEmpty()) {
      Defaults.refuseComputed(bound);
    }
    Field added = schema().numbered(bound).asAdded();
    siblings(
        parent,
        fields -> {
          for (Field sibling : fields) {
            if (sibling.name().equals(field.name())) {
              throw new InvalidInputException(
                  "Column %s already exists with type %s. Choose another name, or widen that column."
                      .formatted(Schema.below(parent, field.name()), sibling.type()));
            }
          }
          fields.add(position(fields, place), added);
        },
        Schema.highestId(added));
    if (added.required() && added.addedDefault().isEmpty()) {
      proofs.add(
          new Proof.NoRows(
              "Column %s cannot be added as NOT NULL without a default, because existing rows have no value for it. Give it a default, or add it without NOT NULL."
                  .formatted(field.name())));
    }
  }

  private void grow(Alteration.Grow grow) {
    Field field = grow.field();
    Optional<Field> same = grow.there(schema());
    if (same.isEmpty()) {
      add(grow.parent(), field.withRequired(false), Place.LAST);
      return;
    }
    String path = grow.path();
    Type have = same.get().type();
    if (have.isNested() && have.getClass() == field.type().getClass()) {
      for (Field inner : Schema.children(field.type())) {
        grow(new Alteration.Grow(path, inner));
      }
      return;
    }
    Type both =
        Widening.common(have, field.type())
            .orElseThrow(
                () ->
                    InvalidInputException.ofColumn(
                        path,
                        "Column %s is %s and cannot be widened to hold %s as well."
                            .formatted(path, have, field.type())));
    if (!both.equals(have)) {
      widen(path, both);
    }
  }

  private static int position(List<Field> fields, Place place) {
    switch (place.where()) {
      case FIRST -> {
        return 0;
      }
      case LAST -> {
        return fields.size();
      }
      default -> {
        for (int i = 0; i < fields.size(); i++) {
          if (fields.get(i).name().equals(place.sibling())) {
            return place.where() == Place.Where.AFTER ? i + 1 : i;
          }
        }
        throw new NotFoundException(
            NotFoundException.Kind.COLUMN,
            place.sibling(),
            "Column %s, which the new position refers to with %s, does not exist.%s"
                .formatted(
                    place.sibling(),
                    place.where() == Place.Where.AFTER ? "after" : "before",
                    NearNames.didYouMean(
                        place.sibling(), fields.stream().map(Field::name).toList())));
      }
    }
  }

  private void drop(String path) {
    Field field = named(path, "dropped");
    List<Integer> ids = new ArrayList<>();
    collect(field, ids);
    if (schema().keyIds().stream().anyMatch(ids::contains)) {
      throw InvalidInputException.ofColumn(
          path,
          "Column %s is in the primary key and cannot be dropped. Change the key first."
              .formatted(path));
    }
    for (Check check : form.checks()) {
      if (Checks.fieldIds(check, schema()).stream().anyMatch(ids::contains)) {
        throw InvalidInputException.ofColumn(
            path,
            "Column %s is used by the check %s and cannot be dropped. Drop the check first."
                .formatted(path, check.name()));
      }
    }
    if (form.layout().fieldIds().stream().anyMatch(ids::contains)) {
      throw InvalidInputException.ofColumn(
          path,
          "Column %s is used by the layout (%s) and cannot be dropped. Change the layout first."
              .formatted(path, form.layout().text(schema())));
    }
    siblings(
        parentOf(path),
        fields -> {
          if (fields.size() == 1) {
            throw InvalidInputException.ofColumn(
                path,
                "Column %s is the only column and cannot be dropped. %s"
                    .formatted(
                        path,
                        parentOf(path).isEmpty()
                            ? "Drop the table, or add another column first."
                            : "Drop " + parentOf(path) + " as a whole."));
          }
          fields.removeIf(sibling -> sibling.id() == field.id());
        },
        schema().lastId());
  }

  private static void collect(Field field, List<Integer> ids) {
    ids.add(field.id());
    Schema.children(field.type()).forEach(inner -> collect(inner, ids));
  }

  private void rename(String path, String newName) {
    Field field = named(path, "renamed");
    siblings(
        parentOf(path),
        fields -> {
          for (int i = 0; i < fields.size(); i++) {
            if (fields.get(i).id() == field.id()) {
              fields.set(i, fields.get(i).withName(newName));
            } else if (fields.get(i).name().equals(newName)) {
              throw InvalidInputException.ofColumn(
                  path,
                  "Column %s cannot be renamed to %s, because another column has this name."
                      .formatted(path, newName));
            }
          }
        },
        schema().lastId());
  }

  private void move(String path, Place place) {
    Field field = named(path, "moved");
    siblings(
        parentOf(path),
        fields -> {
          if (place.sibling().equals(field.name())) {
            throw InvalidInputException.ofColumn(
                path, "Column " + path + " cannot be moved next to itself.");
          }
          fields.removeIf(sibling -> sibling.id() == field.id());
          fields.add(position(fields, place), field);
        },
        schema().lastId());
  }

  private void widen(String path, Type type) {
    Field field = schema().find(path);
    if (field.type().equals(type)) {
      return;
    }
    if (isMapKey(path)) {
      throw new InvalidInputException(
          "%s is the key of a map, and its type cannot change.".formatted(path));
    }
    if (!Widening.isExact(field.type(), type)) {
      throw InvalidInputException.ofColumn(
          path,
          "Column %s is %s and cannot become %s without reading every row. %s"
              .formatted(path, field.type(), type, wider(field.type())));
    }
    edit(field.id(), old -> Defaults.bound(old.reshaped(type)));
    for (Check check : form.checks()) {
      try {
        Filter.bind(check.condition(), schema());
      } catch (YsteronException e) {
        throw new InvalidInputException(
            "Column %s cannot become %s, because the check %s does not allow this type: %s Drop the check first."
                .formatted(path, type, check.name(), e.getMessage()),
            path,
            e);
      }
    }
  }

  private static String wider(Type type) {
    String other = "For any other type, add a column, update it from this one, and drop this one.";
    if (type == Types.INTEGER) {
      return "It can become BIGINT, DOUBLE PRECISION or DECIMAL(10, 0) and wider. " + other;
    }
    if (type == Types.BIGINT) {
      return "It can become DECIMAL(19, 0) and wider. " + other;
    }
    if (type == Types.REAL) {
      return "It can become DOUBLE PRECISION. " + other;
    }
    if (type == Types.DATE) {
      return "It can become TIMESTAMP. " + other;
    }
    if (type instanceof Type.Decimal decimal) {
      return "It can become a DECIMAL with at least %d digits before and %d after the decimal point. "
              .formatted(decimal.precision() - decimal.scale(), decimal.scale())
          + other;
    }
    if (type instanceof Type.Text text && text.limit().isPresent()) {
      return "It can become a VARCHAR with a higher limit or none. " + other;
    }
    return other;
  }

  private void require(String path, boolean required) {
    Field field = schema().find(path);
    if (field.required() == required) {
      return;
    }
    if (!required && (schema().keyIds().contains(field.id()) || isMapKey(path))) {
      throw InvalidInputException.ofColumn(
          path,
          "Column %s is in a key and cannot be null. Change the primary key first."
              .formatted(path));
    }
    edit(field.id(), old -> old.withRequired(required));
    if (required) {
      proofs.add(new Proof.NoNulls(field.id()));
    }
  }

  private void setDefault(String path, Optional<Object> value) {
    Field field = named(path, "given a default");
    Field changed = Defaults.bound(value.map(field::withDefault).orElseGet(field::withoutDefault));
    if (!parentOf(path).isEmpty()) {
      Defaults.refuseComputed(changed);
    }
    edit(field.id(), old -> changed);
  }

  private void setKey(List<String> columns) {
    Schema before = schema();
    Schema keyless = Schema.stored(before.columns(), List.of(), before.lastId());
    Schema changed = columns.isEmpty() ? keyless : keyless.withKey(columns.toArray(String[]::new));
    form = form.withSchema(changed);
    for (int id : changed.keyIds()) {
      if (before.field(id).filter(Field::required).isEmpty()) {
        proofs.add(new Proof.NoNulls(id));
      }
    }
    boolean weaker = !before.keyIds().isEmpty() && changed.keyIds().containsAll(before.keyIds());
    if (!columns.isEmpty() && !weaker) {
      proofs.add(new Proof.UniqueKey());
    }
  }

  private void addCheck(Alteration.AddCheck add) {
    if (add.name().isBlank()) {
      throw new InvalidInputException("A check needs a name.");
    }
    if (form.check(add.name()).isPresent()) {
      throw new InvalidInputException(
          "Check %s already exists: %s. Drop it first, or choose another name."
              .formatted(add.name(), form.check(add.name()).get().condition()));
    }
    Limits.text(add.name(), Limits.NAME, "name of a check");
    Condition condition = add.condition().simplified();
    Limits.depth(condition.logicalDepth(Limits.DEPTH), "check " + add.name());
    if (Filter.bind(condition, schema()).isNeverTrue()) {
      throw new InvalidInputException(
          "Check %s could never be true, so it would reject every row: %s."
              .formatted(add.name(), condition));
    }
    List<Check> checks = new ArrayList<>(form.checks());
    checks.add(new Check(add.name(), condition));
    form = form.withChecks(checks);
    proofs.add(new Proof.Holds(add.name()));
  }

  private void dropCheck(String name) {
    List<Check> checks = new ArrayList<>(form.checks());
    if (!checks.removeIf(check -> check.name().equals(name))) {
      throw new NotFoundException(
          NotFoundException.Kind.CHECK,
          name,
          "There is no check %s.%s"
              .formatted(
                  name, NearNames.didYouMean(name, checks.stream().map(Check::name).toList())));
    }
    proofs.removeIf(proof -> proof.equals(new Proof.Holds(name)));
    form = form.withChecks(checks);
  }

  private int leftovers(String column) {
    List<Field> along = schema().resolve(column);
    Field field = along.get(0);
    if (along.size() > 1 || field.type() != Types.JSON || field.required()) {
      throw InvalidInputException.ofColumn(
          column,
          "Column %s cannot be the leftovers column: this must be a nullable top-level column of type JSON."
              .formatted(column));
    }
    return field.id();
  }

  /** A field that has a name of its own, as elements, keys and values have not. */
  private Field named(String path, String what) {
    Field field = schema().find(path);
    String parent = parentOf(path);
    if (!parent.isEmpty() && !(schema().find(parent).type() instanceof Type.Struct)) {
      throw new InvalidInputException(
          "%s is an element of type %s, not a field, and cannot be %s."
              .formatted(path, schema().find(parent).type(), what));
    }
    return field;
  }

  private boolean isMapKey(String path) {
    String parent = parentOf(path);
    return !parent.isEmpty()
        && schema().find(parent).type() instanceof Type.MapOf map
        && map.key().id() == schema().find(path).id();
  }

  private static String parentOf(String path) {
    List<String> names = Schema.parsePath(path);
    return Schema.path(names.subList(0, names.size() - 1));
  }

  private interface Siblings {
    void edit(List<Field> fields);
  }

  /** Edits the fields of the table or of a struct in it. */
  private void siblings(String parent, Siblings how, int lastId) {
    int highest = Math.max(lastId, schema().lastId());
    if (parent.isEmpty()) {
      List<Field> columns = new ArrayList<>(schema().columns());
      how.edit(columns);
      put(columns, highest);
      return;
    }
    Field outer = schema().find(parent);
    if (!(outer.type() instanceof Type.Struct struct)) {
      throw new InvalidInputException(
          "%s is %s and has no fields; only a ROW has.".formatted(parent, outer.type()));
    }
    List<Field> inner = new ArrayList<>(struct.fields());
    how.edit(inner);
    Type changed = new Type.Struct(inner);
    put(replaced(schema().columns(), outer.id(), old -> old.reshaped(changed)), highest);
  }

  private void edit(int id, UnaryOperator<Field> how) {
    put(replaced(schema().columns(), id, how), schema().lastId());
  }

  private void put(List<Field> columns, int lastId) {
    form = form.withSchema(Schema.stored(columns, schema().keyIds(), lastId));
  }

  private static List<Field> replaced(List<Field> fields, int id, UnaryOperator<Field> how) {
    List<Field> changed = new ArrayList<>();
    for (Field field : fields) {
      if (field.id() == id) {
        changed.add(how.apply(field));
      } else {
        changed.add(field.reshaped(replaced(field.type(), id, how)));
      }
    }
    return changed;
  }

  private static Type replaced(Type type, int id, UnaryOperator<Field> how) {
    List<Field> inner = Schema.children(type);
    if (inner.isEmpty()) {
      return type;
    }
    return withInner(type, replaced(inner, id, how));
  }

  /** A nested type with other fields inside. */
  static Type withInner(Type type, List<Field> changed) {
    if (type instanceof Type.Struct) {
      return new Type.Struct(changed);
    }
    return type instanceof Type.ListOf
        ? new Type.ListOf(changed.get(0))
        : new Type.MapOf(changed.get(0), changed.get(1));
  }
}
