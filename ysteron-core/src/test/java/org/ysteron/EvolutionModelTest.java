package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.internal.form.FormComparison;
import org.ysteron.internal.form.TableForm;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/**
 * Random schema and layout changes between random writes, against a model: every version read by
 * its own schema and by the newest.
 */
class EvolutionModelTest {
  private static final Schema FIRST =
      Schema.of(
              Field.of("k", Types.INTEGER),
              Field.of("v", Types.INTEGER),
              Field.of("t", Types.text(20)),
              Field.of("day", Types.DATE),
              Field.of("s", Types.struct(Field.of("a", Types.INTEGER), Field.of("b", Types.REAL))),
              Field.of("l", Types.listOf(Types.struct(Field.of("x", Types.INTEGER)))))
          .withKey("k");
  private static final List<Type> NEW_TYPES =
      List.of(
          Types.INTEGER,
          Types.REAL,
          Types.DATE,
          Types.text(30),
          Types.decimal(5, 2),
          Types.BIGINT,
          Types.struct(Field.of("p", Types.INTEGER), Field.of("q", Types.text())),
          Types.listOf(Types.REAL),
          Types.mapOf(Types.text(), Types.INTEGER));

  private Random random;
  private RandomRows values;
  private EvolvingModel model;
  private Table table;
  private int nextKey;
  private int nextName;

  /** A version, and its rows. */
  private record Kept(long version, EvolvingModel rows) {}

  @Property(tries = 10)
  void everyVersionReadsByItsOwnAndByTheNewestSchema(@ForAll long seed) {
    random = new Random(seed);
    values = new RandomRows(seed);
    model = new EvolvingModel();
    nextKey = 0;
    nextName = 0;
    List<Kept> versions = new ArrayList<>();
    MemoryStore store = new MemoryStore();
    try (Lake lake = Lake.create(store)) {
      TableSettings properties =
          TableSettings.DEFAULTS
              .with(TableSettings.FILE_BYTES, 2048)
              .with(TableSettings.RANGED_COLUMNS, random.nextInt(12));
      table = lake.createTable("t.x", FIRST, properties);
      for (int step = 0; step < 25; step++) {
        if (random.nextInt(5) < 2) {
          write();
        } else {
          alter();
        }
        check(table.now(), model, table.schema());
        versions.add(new Kept(table.now().version(), model.copy()));
      }
    }
    try (Lake lake = Lake.open(store)) {
      table = lake.table("t.x");
      for (Kept kept : versions) {
        TableView view = table.at(kept.version());
        check(view, kept.rows(), view.schema());
        EvolvingModel older = kept.rows().copy();
        older.learn(model);
        check(view.bySchemaOf(table.now()), older, table.schema());
        compare(view.page().form(), table.now().page().form());
        compare(table.now().page().form(), view.page().form());
      }
    }
  }

  private static void compare(TableForm from, TableForm to) {
    EvolutionTest.assertMakes(from, FormComparison.ofVersions(from, to), to);
    EvolutionTest.assertMakes(from, FormComparison.ofTables(from, to), to);
  }

  private void check(TableView view, EvolvingModel expected, Schema schema) {
    assertThat(view.schema()).isEqualTo(schema);
    Map<Integer, Map<String, Object>> wanted = new TreeMap<>();
    expected.rows().keySet().forEach(key -> wanted.put(key, expected.read(key, schema)));
    Map<Integer, Map<String, Object>> found = read(view.scan(), schema);
    wanted.forEach((key, row) -> assertThat(found.get(key)).as("row %d", key).isEqualTo(row));
    assertThat(found).hasSameSizeAs(wanted);
    Condition condition = condition(schema, wanted);
    assertThat(read(view.scan().where(condition), schema)).as("%s", condition).isEqualTo(wanted);
  }

  private String keyName(Schema schema) {
    return schema.field(1).orElseThrow().name();
  }

  private Map<Integer, Map<String, Object>> read(Scan scan, Schema schema) {
    Map<Integer, Map<String, Object>> rows = new TreeMap<>();
    for (Row row : scan.rows()) {
      int key = ((Number) row.get(keyName(schema))).intValue();
      assertThat(rows.put(key, EvolvingModel.told(row))).as("row %d twice", key).isNull();
    }
    return rows;
  }

  /** A condition on some column; takes the rows that do not pass from those wanted. */
  private Condition condition(Schema schema, Map<Integer, Map<String, Object>> wanted) {
    List<Field> columns = schema.columns();
    Field field = columns.get(random.nextInt(columns.size()));
    if (field.type() instanceof Type.Struct struct) {
      Field inner = struct.fields().get(random.nextInt(struct.fields().size()));
      wanted
          .values()
          .removeIf(
              row ->
                  row.get(field.name()) instanceof Map<?, ?> fields
                      && fields.get(inner.name()) != null);
      return column(Schema.path(List.of(field.name(), inner.name()))).isNull();
    }
    if (isNumber(field.type()) && random.nextBoolean()) {
      BigDecimal limit = BigDecimal.valueOf(random.nextInt(200) - 100);
      boolean equal = random.nextInt(3) == 0;
      wanted
          .values()
          .removeIf(
              row -> {
                Object value = row.get(field.name());
                boolean above = "NaN".equals(value);
                int order = value instanceof BigDecimal n ? n.compareTo(limit) : above ? 1 : -2;
                return value == null || (equal ? order != 0 : order < 0);
              });
      Column tested = column(Schema.path(List.of(field.name())));
      return equal ? tested.equalTo(limit) : tested.atLeast(limit);
    }
    wanted.values().removeIf(row -> row.get(field.name()) == null);
    return column(Schema.path(List.of(field.name()))).isNotNull();
  }

  private static boolean isNumber(Type type) {
    return type instanceof Type.Decimal
        || type == Types.INTEGER
        || type == Types.BIGINT
        || type == Types.REAL
        || type == Types.DOUBLE;
  }

  private Object key(Schema schema, int key) {
    Type type = schema.field(1).orElseThrow().type();
    if (type == Types.INTEGER) {
      return key;
    }
    if (type == Types.BIGINT) {
      return (long) key;
    }
    return type == Types.DOUBLE ? (Object) (double) key : BigDecimal.valueOf(key);
  }

  private void write() {
    Schema schema = table.schema();
    switch (random.nextInt(4)) {
      case 0, 1 -> {
        try (Append append = table.append()) {
          for (int i = random.nextInt(30); i >= 0; i--) {
            Object[] row = new Object[schema.columns().size()];
            for (int c = 0; c < row.length; c++) {
              Field field = schema.columns().get(c);
              row[c] = field.id() == 1 ? key(schema, nextKey) : values.value(field);
            }
            append.add(row);
            model.put(nextKey++, schema, row);
          }
          append.commit();
        }
      }
      case 2 -> {
        int low = random.nextInt(nextKey + 1);
        Condition some = column(keyName(schema)).between(low, low + 9);
        table.delete().where(some).style(style()).run();
        model.rows().keySet().removeIf(k -> k >= low && k <= low + 9);
      }
      default -> {
        int low = random.nextInt(nextKey + 1);
        Field field = schema.columns().get(random.nextInt(schema.columns().size()));
        if (field.id() != 1) {
          Object value = values.value(field);
          table
              .update()
              .set(field.name(), value)
              .where(column(keyName(schema)).between(low, low + 9))
              .style(style())
              .run();
          model.rows().keySet().stream()
              .filter(k -> k >= low && k <= low + 9)
              .toList()
              .forEach(k -> model.set(k, schema, field, value));
        }
      }
    }
  }

  private ChangeStyle style() {
    return random.nextBoolean() ? ChangeStyle.MASK : ChangeStyle.REWRITE;
  }

  private String randomPath(Schema schema, boolean inside) {
    Field field = schema.columns().get(random.nextInt(schema.columns().size()));
    String path = Schema.path(List.of(field.name()));
    while (inside && field.type().isNested() && random.nextInt(4) > 0) {
      List<Field> inner = Schema.children(field.type());
      field = inner.get(random.nextInt(inner.size()));
      path = path + "." + Schema.path(List.of(field.name()));
    }
    return path;
  }

  private Place place(Schema schema) {
    String sibling = schema.columns().get(random.nextInt(schema.columns().size())).name();
    return List.of(Place.FIRST, Place.LAST, Place.after(sibling), Place.before(sibling))
        .get(random.nextInt(4));
  }

  private void alter() {
    Schema before = table.schema();
    Alter alter = table.alter();
    String path = randomPath(before, true);
    Field field = before.find(path);
    switch (random.nextInt(9)) {
      case 0, 1 -> {
        // A name that was dropped may come again.
        Field column = Field.of("c" + nextName++ % 5, NEW_TYPES.get(random.nextInt(9)));
        Field added = random.nextBoolean() ? column : withDefault(column);
        alter = alter.add(perhapsComputed(added), place(before));
      }
      case 2 -> {
        Field added = withDefault(Field.of("d" + nextName++, NEW_TYPES.get(random.nextInt(6))));
        String struct = field.type() instanceof Type.Struct ? path : "s";
        alter = alter.addIn(struct, added, Place.FIRST);
      }
      case 3 -> alter = alter.drop(path);
      case 4 -> alter = alter.rename(path, "r" + nextName++);
      case 5 -> alter = alter.move(randomPath(before, false), place(before));
      case 6 -> alter = alter.widen(path, wider(field.type()));
      case 7 -> {
        layOut(before, alter);
        return;
      }
      default -> {
        require(before, alter);
        return;
      }
    }
    Schema after;
    try {
      alter.run();
      after = table.schema();
    } catch (InvalidInputException | org.ysteron.error.NotFoundException e) {
      assertThat(e)
          .hasMessageMatching(
              "(?s).*(used by the layout|the only column|primary key|not a field|new position|next to itself|another column has this name|already exists|There is no column|has no fields|key of a map).*");
      assertThat(table.schema()).isEqualTo(before);
      return;
    }
    learn(after.columns(), before);
  }

  private Field withDefault(Field field) {
    return field.type().isNested() ? field : field.withDefault(values.value(field.type()));
  }

  /** Sometimes a default that is computed, with the same value. */
  private Field perhapsComputed(Field field) {
    boolean computed = random.nextInt(3) == 0 && field.writeDefault().isPresent();
    return computed ? field.withDefault(Computed.later(field.writeDefault().get())) : field;
  }

  private void learn(List<Field> fields, Schema before) {
    for (Field field : fields) {
      if (field.id() > before.lastId()) {
        model.added(field.id(), field.addedDefault(), field.type());
      }
      learn(Schema.children(field.type()), before);
    }
  }

  private Type wider(Type type) {
    if (type == Types.INTEGER) {
      return List.of(Types.BIGINT, Types.DOUBLE, Types.decimal(12, 2), Types.decimal(30, 5))
          .get(random.nextInt(4));
    }
    if (type == Types.BIGINT) {
      return Types.decimal(25, 3);
    }
    if (type == Types.REAL) {
      return Types.DOUBLE;
    }
    if (type == Types.DATE) {
      return Types.TIMESTAMP;
    }
    if (type instanceof Type.Decimal decimal && decimal.precision() < 30) {
      return Types.decimal(decimal.precision() + 4, decimal.scale() + random.nextInt(3));
    }
    return type instanceof Type.Text ? Types.text() : type;
  }

  private void layOut(Schema schema, Alter alter) {
    LayoutPlan plan = LayoutPlan.none();
    for (Field column : schema.columns()) {
      Type type = column.type();
      String name = Schema.path(List.of(column.name()));
      if (random.nextInt(4) > 0 || type.isNested()) {
        continue;
      }
      int kind = random.nextInt(4);
      if (kind == 0) {
        plan = plan.rule("hash " + name + " into 3");
      } else if (kind == 1 && isNumber(type)) {
        plan = plan.rule("range " + name + " every 50");
      } else if (kind == 1 && (type == Types.DATE || type == Types.TIMESTAMP)) {
        plan = plan.rule("range " + name + " every 2 years");
      } else if (kind == 2 && isNumber(type)) {
        plan = plan.rule("range " + name + " at -50, 0, 75");
      } else if (type instanceof Type.Text) {
        plan = plan.rule("range " + name + " at 'f', 'm'");
      } else {
        plan = plan.sortedBy(name + (kind == 3 ? " descending" : ""));
      }
    }
    alter.layout(plan).run();
  }

  /** NOT NULL is taken exactly when no row has a null. */
  private void require(Schema schema, Alter alter) {
    Field column = schema.columns().get(random.nextInt(schema.columns().size()));
    String path = Schema.path(List.of(column.name()));
    if (column.required()) {
      if (column.id() != 1) {
        alter.nullable(path).run();
      }
      return;
    }
    long nulls =
        model.rows().keySet().stream()
            .filter(key -> model.read(key, schema).get(column.name()) == null)
            .count();
    if (nulls == 0) {
      alter.notNull(path).run();
    } else {
      assertThatThrownBy(() -> alter.notNull(path).run())
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining("is null in %d row", nulls);
    }
  }
}
