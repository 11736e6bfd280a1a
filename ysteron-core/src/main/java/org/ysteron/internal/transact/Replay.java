package org.ysteron.internal.transact;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.form.Checks;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.Proof;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.seen.SeenTable;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.Check;

/**
 * Does a transaction's alterations again on the form that others left, and finds the ids that its
 * new columns have there. Columns are followed by id, so that renaming does not part us; who
 * touched the same column is in the way. For one thread.
 */
final class Replay {
  private final SeenTable table;
  private final TableNumbers first;
  private final TableNumbers numbers;
  private final TableForm start;
  private final TableForm now;
  private final FormEditor mine;
  private final FormEditor there;
  private final Set<Integer> theirs;
  private final Map<Integer, Integer> ids = new HashMap<>();

  /**
   * Does it again.
   *
   * @param now the form of now
   * @param numbers what the table gives out next now
   * @throws ReplayCollision when what others did is in the way
   */
  Replay(TableWork work, TableForm now, TableNumbers numbers) {
    this(work.table(), work.table().start().form(), now, numbers, work.alterations());
  }

  /** For a table that is made here, whose form is what its last draft has. */
  static Replay nothing(TableForm form, SeenTable table) {
    return new Replay(table, form, form, TableNumbers.of(form), List.of());
  }

  private Replay(
      SeenTable table,
      TableForm start,
      TableForm now,
      TableNumbers numbers,
      List<Alteration> alterations) {
    this.table = table;
    this.first = table.numbers();
    this.numbers = numbers;
    this.start = start;
    this.now = now;
    this.mine = new FormEditor(start, first);
    this.there = new FormEditor(now, numbers);
    boolean alone = alterations.isEmpty() || start.schemaVersion() == now.schemaVersion();
    this.theirs = alone ? Set.of() : touched(start, now);
    alterations.forEach(this::replay);
  }

  /** The form with both in it. */
  TableForm form() {
    return there.form();
  }

  /** What must hold for the rows that came since. */
  List<Proof> proofs() {
    return there.proofs();
  }

  private void replay(Alteration alteration) {
    for (int id : touchedBy(alteration)) {
      if (id < first.column() && theirs.contains(id)) {
        throw new ReplayCollision(
            "altered column %s, which this transaction alters as well (%s)"
                .formatted(start.schema().pathOf(id), alteration),
            null);
      }
    }
    if (alteration instanceof Alteration.SetKey
        && !start.schema().keyIds().equals(now.schema().keyIds())) {
      throw new ReplayCollision("set another primary key", null);
    }
    try {
      if (alteration instanceof Alteration.SetLayout set) {
        replay(set);
      } else {
        Alteration translated = translated(alteration);
        mine.apply(alteration);
        there.apply(translated);
        follow(alteration, translated);
      }
    } catch (InvalidInputException | NotFoundException e) {
      throw new ReplayCollision(
          "altered it so that \"%s\" of this transaction is not possible any more: %s"
              .formatted(alteration, e.getMessage()),
          e);
    }
  }

  private void replay(Alteration.SetLayout set) {
    if (start.layoutVersion() != now.layoutVersion()) {
      throw new ReplayCollision("set another layout", null);
    }
    mine.apply(set);
    Layout layout = mine.form().layout();
    for (int id : layout.fieldIds()) {
      if (there.form().schema().field(inTable(id)).isEmpty()) {
        throw new ReplayCollision(
            "dropped a column of the layout that this transaction sets", null);
      }
    }
    there.setLayout(layout.under(this::inTable));
  }

  /** The id that a field of this transaction has in the table. */
  private int inTable(int id) {
    return ids.getOrDefault(id, id);
  }

  private String path(String path) {
    return path.isEmpty()
        ? path
        : there.form().schema().pathOf(inTable(mine.form().schema().find(path).id()));
  }

  private Alteration translated(Alteration of) {
    return of.match(new Translation());
  }

  /** An alteration of the form here as one of the form there. */
  private final class Translation implements Alteration.Cases<Alteration> {
    @Override
    public Alteration addColumn(Alteration.AddColumn add) {
      return new Alteration.AddColumn(
          path(add.parent()), add.field(), place(add.parent(), add.place()));
    }

    @Override
    public Alteration grow(Alteration.Grow grow) {
      return new Alteration.Grow(path(grow.parent()), underItsName(grow));
    }

    @Override
    public Alteration dropColumn(Alteration.DropColumn drop) {
      return new Alteration.DropColumn(path(drop.path()));
    }

    @Override
    public Alteration renameColumn(Alteration.RenameColumn rename) {
      return new Alteration.RenameColumn(path(rename.path()), rename.newName());
    }

    @Override
    public Alteration moveColumn(Alteration.MoveColumn move) {
      List<String> names = Schema.parsePath(move.path());
      String parent = Schema.path(names.subList(0, names.size() - 1));
      return new Alteration.MoveColumn(path(move.path()), place(parent, move.place()));
    }

    @Override
    public Alteration widenColumn(Alteration.WidenColumn widen) {
      return new Alteration.WidenColumn(path(widen.path()), widen.type());
    }

    @Override
    public Alteration setRequired(Alteration.SetRequired set) {
      return new Alteration.SetRequired(path(set.path()), set.required());
    }

    @Override
    public Alteration setDefault(Alteration.SetDefault set) {
      return new Alteration.SetDefault(path(set.path()), set.value());
    }

    @Override
    public Alteration setComment(Alteration.SetComment set) {
      return new Alteration.SetComment(path(set.path()), set.text());
    }

    @Override
    public Alteration setKey(Alteration.SetKey set) {
      return new Alteration.SetKey(
          set.columns().stream()
              .map(name -> Schema.parsePath(path(Schema.path(List.of(name)))).get(0))
              .toList());
    }

    @Override
    public Alteration addCheck(Alteration.AddCheck add) {
      return new Alteration.AddCheck(add.name(), add.condition().renamed(Replay.this::path));
    }

    @Override
    public Alteration setLeftovers(Alteration.SetLeftovers set) {
      return new Alteration.SetLeftovers(set.column().map(Replay.this::path));
    }

    @Override
    public Alteration dropCheck(Alteration.DropCheck drop) {
      return drop;
    }

    @Override
    public Alteration setLayout(Alteration.SetLayout set) {
      return set;
    }

    @Override
    public Alteration setSetting(Alteration.SetSetting set) {
      return set;
    }
  }

  /** What grows a column that was there does so under the name that others may have given it. */
  private Field underItsName(Alteration.Grow grow) {
    Optional<Field> mineIs = grow.there(mine.form().schema());
    if (mineIs.isEmpty()) {
      return grow.field();
    }
    Schema theirs = there.form().schema();
    String path = theirs.pathOf(inTable(mineIs.get().id())); // not there when others dropped it
    return grow.field().withName(theirs.find(path).name());
  }

  /** The place beside the same column; last when others took that away. */
  private Place place(String parent, Place place) {
    if (place.sibling().isEmpty()) {
      return place;
    }
    Field beside = mine.form().schema().find(Schema.below(parent, place.sibling()));
    return there
        .form()
        .schema()
        .field(inTable(beside.id()))
        .map(field -> new Place(place.where(), field.name()))
        .orElse(Place.LAST);
  }

  /** Finds the ids of new columns, which are under the same names in both. */
  private void follow(Alteration alteration, Alteration translated) {
    if (alteration instanceof Alteration.AddColumn add) {
      pair(add.parent(), ((Alteration.AddColumn) translated).parent(), add.field());
    } else if (alteration instanceof Alteration.Grow grow) {
      Alteration.Grow other = (Alteration.Grow) translated;
      pair(mine.form().schema().find(grow.path()), there.form().schema().find(other.path()));
    }
  }

  private void pair(String parentHere, String parentThere, Field field) {
    pair(
        mine.form().schema().find(Schema.below(parentHere, field.name())),
        there.form().schema().find(Schema.below(parentThere, field.name())));
  }

  private void pair(Field here, Field other) {
    if (here.id() >= first.column()) {
      ids.put(here.id(), other.id());
    }
    for (Field inner : Schema.children(here.type())) {
      Schema.children(other.type()).stream()
          .filter(field -> field.name().equals(inner.name()))
          .findFirst()
          .ifPresent(field -> pair(inner, field));
    }
  }

  private Set<Integer> touchedBy(Alteration alteration) {
    Set<Integer> touched = new TreeSet<>();
    Schema schema = mine.form().schema();
    for (String path : alteration.changes()) {
      Field field = schema.find(path);
      if (alteration instanceof Alteration.DropColumn) {
        collect(field, touched);
      } else {
        touched.add(field.id());
      }
    }
    return touched;
  }

  private static void collect(Field field, Set<Integer> ids) {
    ids.add(field.id());
    Schema.children(field.type()).forEach(inner -> collect(inner, ids));
  }

  /** The columns of one form that are gone, or not the same, in another. */
  private static Set<Integer> touched(TableForm before, TableForm after) {
    Set<Integer> touched = new TreeSet<>();
    before.schema().columns().forEach(column -> compare(column, after.schema(), touched));
    for (Check check : before.checks()) {
      if (!after.checks().contains(check)) {
        touched.addAll(Checks.fieldIds(check, before.schema()));
      }
    }
    for (Check check : after.checks()) {
      if (!before.checks().contains(check)) {
        touched.addAll(Checks.fieldIds(check, after.schema()));
      }
    }
    return touched;
  }

  private static void compare(Field field, Schema after, Set<Integer> touched) {
    Field other = after.field(field.id()).orElse(null);
    if (other == null) {
      collect(field, touched);
      return;
    }
    boolean same =
        field.name().equals(other.name())
            && (field.type().isNested() || field.type().equals(other.type()))
            && field.required() == other.required()
            && field.writeDefault().equals(other.writeDefault())
            && field.computedDefault().equals(other.computedDefault())
            && field.comment().equals(other.comment());
    if (!same) {
      touched.add(field.id());
    }
    Schema.children(field.type()).forEach(inner -> compare(inner, after, touched));
  }

  /**
   * A file of the transaction as one of the table: its own new ids stand for the table's, and the
   * versions of the forms it made are the one that the table gets.
   */
  StagedFile inTable(StagedFile file) {
    TableForm committed = form().after(now, numbers);
    StagedFile.Form by = file.form();
    long schema = by.schema() >= first.schema() ? committed.schemaVersion() : by.schema();
    boolean ownLayout = by.layout() >= first.layout();
    // A layout that was set here and replaced here is in no version: its parts mean nothing.
    boolean lostLayout = ownLayout && by.layout() != table.layoutVersion();
    long layout =
        lostLayout ? start.layoutVersion() : ownLayout ? committed.layoutVersion() : by.layout();
    FieldIds ids = inTable(by.ids());
    Map<Integer, ColumnRange> ranges = new TreeMap<>();
    ids.others().values().forEach(id -> ranges.put(id, ColumnRange.UNKNOWN));
    file.ranges()
        .forEach(
            (id, range) -> {
              if (Layout.isPart(id)) {
                if (!lostLayout) {
                  ranges.put(ownLayout ? Layout.partUnder(id, layout) : id, range);
                }
              } else if (id < first.column() || Layout.isReserved(id) || ids.others().isEmpty()) {
                ranges.put(id, range);
              } else if (ids.others().containsKey(id)) {
                ranges.put(ids.others().get(id), range);
              }
            });
    long order = file.order() == 0 || lostLayout ? 0 : layout + 1;
    return file.as(new StagedFile.Form(schema, layout, ids), ranges, order);
  }

  private FieldIds inTable(FieldIds own) {
    long base = first.column() - 1;
    if (own.highest() <= base) {
      return own;
    }
    Map<Integer, Integer> others = new TreeMap<>();
    boolean alike = true;
    for (Map.Entry<Integer, Integer> id : ids.entrySet()) {
      if (id.getKey() <= own.highest()) {
        others.put(id.getKey(), id.getValue());
        alike &= id.getKey().equals(id.getValue());
      }
    }
    return alike ? new FieldIds(own.highest(), Map.of()) : new FieldIds(base, others);
  }
}
