package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.form.FormComparison;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Explanation;
import org.ysteron.report.WriteResult;
import org.ysteron.store.ForwardingStore;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectInput;

/** What altering a table does and refuses. */
class EvolutionTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("gauge", Types.text(8)),
              Field.of("day", Types.DATE),
              Field.of("level", Types.decimal(6, 1)),
              Field.of("count", Types.INTEGER),
              Field.of(
                  "health",
                  Types.struct(
                      Field.of("battery", Types.INTEGER), Field.of("firmware", Types.text()))),
              Field.of("marks", Types.listOf(Types.struct(Field.of("x", Types.INTEGER)))))
          .withKey("gauge", "day");

  @TempDir private Path directory;
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeTable() {
    lake = Lake.create(directory.resolve("lake"));
    table = lake.createTable("t.x", SCHEMA);
    append("A", 1, "1.5", 1);
    append("B", 2, null, 2);
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private static LocalDate day(int day) {
    return LocalDate.of(2026, 1, 1).plusDays(day - 1L);
  }

  private void append(String gauge, int day, String level, Integer count) {
    try (Append append = table.append()) {
      append.addRow(row(gauge, day, level, count));
      append.commit();
    }
  }

  private static Row row(String gauge, int day, String level, Integer count) {
    Schema some = SCHEMA.select(List.of("gauge", "day", "level", "count"));
    return Row.of(
        some.struct(), gauge, day(day), level == null ? null : new BigDecimal(level), count);
  }

  private List<Object> column(String path, TableView view) {
    List<Object> values = new ArrayList<>();
    for (Row row : view.scan().columns(path).rows()) {
      values.add(row.get(0));
    }
    return values;
  }

  private Map<String, String> files() throws IOException {
    Map<String, String> files = new TreeMap<>();
    try (Stream<Path> all = Files.walk(directory.resolve("lake/data"))) {
      for (Path file : all.filter(Files::isRegularFile).toList()) {
        FileTime time = Files.getLastModifiedTime(file);
        files.put(file + " " + time, HexFormat.of().formatHex(Files.readAllBytes(file)));
      }
    }
    return files;
  }

  @Test
  void dataFilesStayAsTheyAreWhateverIsAltered() throws IOException {
    Map<String, String> before = files();
    table
        .alter()
        .add(Field.of("salinity", Types.DOUBLE).withDefault(35.0), Place.after("level"))
        .rename("count", "readings")
        .widen("readings", Types.BIGINT)
        .widen("day", Types.TIMESTAMP)
        .addIn("health", Field.of("signal", Types.REAL), Place.FIRST)
        .drop("health.firmware")
        .addIn("marks.element", Field.of("y", Types.INTEGER).withDefault(9), Place.LAST)
        .check("some", Condition.column("readings").greaterThan(0))
        .layout(LayoutPlan.none().rule("range day every 1 month").sortedBy("gauge"))
        .run("all at once");
    assertThat(files()).isEqualTo(before);
    assertThat(table.now().version()).isEqualTo(3);
    assertThat(column("salinity", table.now())).containsExactly(35.0, 35.0);
    assertThat(column("readings", table.now())).containsExactly(1L, 2L);
    assertThat(column("day", table.now()))
        .containsExactly(day(1).atStartOfDay(), day(2).atStartOfDay());
    assertThat(column("count", table.at(2))).containsExactly(1, 2);
    assertThat(column("readings", table.at(1).bySchemaOf(table.now()))).containsExactly(1L);
    assertThat(
            table
                .scan()
                .where(Condition.column("day").equalTo(LocalDateTime.of(2026, 1, 2, 0, 0)))
                .count())
        .isEqualTo(1);
  }

  @Test
  void aDefaultForOlderRowsStaysWhenTheDefaultChanges() {
    table.alter().add(Field.of("c", Types.INTEGER).withDefault(1)).run();
    table.alter().setDefault("c", 2).run();
    append("C", 3, null, null);
    table.alter().dropDefault("c").run();
    append("D", 4, null, null);
    assertThat(column("c", table.now())).containsExactly(1, 1, 2, null);
  }

  @Test
  void aNameThatComesBackIsAnotherColumn() {
    table.alter().drop("count").run();
    table.alter().add(Field.of("count", Types.INTEGER)).run();
    assertThat(column("count", table.now())).containsExactly(null, null);
    assertThat(column("count", table.at(2))).containsExactly(1, 2);
    assertThat(table.scan().where(Condition.column("count").equalTo(1)).count()).isZero();
  }

  @Test
  void columnsGoWhereTheyAreToGo() {
    table
        .alter()
        .move("count", Place.FIRST)
        .move("health.firmware", Place.before("battery"))
        .add(Field.of("z", Types.DATE), Place.after("count"))
        .move("gauge", Place.LAST)
        .run();
    assertThat(table.schema().columns().stream().map(Field::name))
        .containsExactly("count", "z", "day", "level", "health", "marks", "gauge");
    assertThat(table.schema().key()).containsExactly("gauge", "day");
    assertThat(column("count", table.now())).containsExactly(1, 2);
  }

  private void refused(Alter alter, String... why) {
    long version = table.now().version();
    assertThatThrownBy(alter::run)
        .isInstanceOfAny(InvalidInputException.class, NotFoundException.class)
        .satisfies(e -> assertThat(e.getMessage()).contains(why));
    assertThat(table.now().version()).isEqualTo(version);
  }

  @Test
  void whatCannotBeDoneIsRefusedWithWhatCan() {
    Alter alter = table.alter();
    refused(alter.drop("gauge"), "Column gauge is in the primary key", "Change the key first");
    refused(alter.drop("nope"), "There is no column nope");
    refused(alter.drop("marks.element"), "is an element of type ROW(x INTEGER) ARRAY, not a field");
    refused(alter.drop("marks.element.x"), "is the only column", "Drop marks.element as a whole");
    refused(alter.rename("count", "level"), "because another column has this name");
    refused(alter.rename("count", ""), "A column name is empty");
    refused(
        alter.widen("count", Types.text()),
        "Column count is INTEGER and cannot become VARCHAR",
        "It can become BIGINT, DOUBLE PRECISION or DECIMAL(10, 0)");
    refused(
        alter.widen("level", Types.decimal(6, 2)),
        "It can become a DECIMAL with at least 5 digits before and 1 after the decimal point");
    refused(alter.widen("gauge", Types.text(3)), "a VARCHAR with a higher limit or none");
    refused(
        alter.add(Field.of("c", Types.INTEGER).notNull()),
        "cannot be added as NOT NULL without a default",
        "Give it a default");
    refused(alter.add(Field.of("count", Types.DATE)), "Column count already exists");
    refused(alter.add(Field.of("c", Types.DATE), Place.after("cont")), "Did you mean count?");
    refused(alter.addIn("level", Field.of("c", Types.DATE), Place.LAST), "has no fields");
    refused(
        alter.notNull("level"),
        "Column level is null in 1 row, such as gauge = 'B', day = DATE '2026-01-02'",
        "Nothing was changed");
    refused(alter.nullable("day"), "is in a key and cannot be null");
    refused(
        alter.check("c", Condition.column("count").lessThan(2)),
        "The check c (\"count\" < 2) is false in 1 row, such as gauge = 'B'");
    refused(alter.dropCheck("c"), "There is no check c");
    refused(alter.setDefault("count", "many"), "The default of column count does not fit");
    refused(alter.leftovers("level"), "must be a nullable top-level column of type JSON");
    refused(alter.key("level"), "Column level is null in 1 row");
    refused(alter.rename("count", "n").drop("count"), "There is no column count");
    refused(alter.set("nothing", 1), "There is no table setting nothing");
  }

  @Test
  void aCheckHoldsForEveryKindOfWrite() {
    table.alter().check("low", Condition.column("count").lessThan(10)).run();
    append("C", 3, null, null); // unknown is let in
    assertThatThrownBy(() -> append("D", 4, null, 10))
        .hasMessageContaining("Row 1 (gauge = 'D', day = DATE '2026-01-04', count = 10)")
        .hasMessageContaining("breaks the check low: \"count\" < 10 is false");
    assertThatThrownBy(() -> table.update().all().set("count", 11).run())
        .hasMessageContaining("breaks the check low");
    assertThatThrownBy(
            () ->
                table
                    .upsert(
                        MergeSource.values(
                            List.of("gauge", "day", "count"),
                            to -> to.add(new Object[] {"A", day(1), 12})))
                    .run())
        .hasMessageContaining("breaks the check low");
    refused(table.alter().drop("count"), "used by the check low");
    table.alter().rename("count", "n").run();
    assertThat(table.now().page().form().checks().get(0))
        .hasToString("CONSTRAINT low CHECK (n < 10)");
    table.alter().widen("n", Types.BIGINT).dropCheck("low").drop("n").run();
  }

  @Test
  void aCheckComparesColumns() {
    Condition order = Condition.column("count").compared(Condition.Comparison.AT_MOST, "level");
    refused(
        table
            .alter()
            .check(
                "order", Condition.column("gauge").compared(Condition.Comparison.EQUAL, "level")),
        "cannot be compared with level");
    table.alter().check("order", order).run();
    append("C", 3, "3.0", 3);
    assertThatThrownBy(() -> append("D", 4, "3.9", 4)).hasMessageContaining("\"count\" <= level");
    lake.close();
    lake = Lake.open(directory.resolve("lake"));
    table = lake.table("t.x");
    assertThatThrownBy(() -> append("D", 4, "3.9", 4)).hasMessageContaining("\"count\" <= level");
  }

  @Test
  void nestedNotNullIsProvedWhereThereIsAStruct() {
    try (Append append = table.append()) {
      append.addObject(
          Map.of("gauge", "C", "day", "2026-01-03", "health", Map.of("firmware", "2.1")));
      append.addObject(
          Map.of("gauge", "D", "day", "2026-01-03", "marks", List.of(Map.of("x", 1), Map.of())));
      append.commit();
    }
    refused(
        table.alter().notNull("health.battery"), "Column health.battery is null in 1 row", "'C'");
    refused(table.alter().notNull("marks.element.x"), "is null in 1 row", "gauge = 'D'");
    table.alter().notNull("health.firmware").notNull("marks.element").run();
    assertThatThrownBy(
            () -> {
              try (Append append = table.append()) {
                append.addObject(
                    Map.of("gauge", "E", "day", "2026-01-03", "health", Map.of("battery", 1)));
              }
            })
        .hasMessageContaining("column health.firmware is missing");
  }

  /** The files that a condition leaves, of those of each layout. */
  private Map<Long, Long> read(Condition condition) {
    Map<Long, Long> read = new TreeMap<>();
    Explanation explained = table.scan().where(condition).explain();
    explained.layouts().forEach(layout -> read.put(layout.layout(), layout.filesRead()));
    return read;
  }

  private void appendDays(int from, int to) {
    try (Append append = table.append()) {
      for (int d = from; d <= to; d++) {
        for (String gauge : List.of("A", "B", "C", "D", "E", "F", "G", "H")) {
          append.addRow(row(gauge, d, "1.0", d));
        }
      }
      append.commit();
    }
  }

  @Test
  void onePlanPrunesEachFileByItsOwnLayout() {
    table.alter().layout(LayoutPlan.none().rule("range day every 1 month")).run();
    appendDays(10, 70); // January, February, March
    table.alter().layout(LayoutPlan.none().rule("range day every 1 day")).run();
    appendDays(71, 80);
    table
        .alter()
        .layout(LayoutPlan.none().rule("range day every 1 day").rule("hash gauge into 4"))
        .run();
    appendDays(81, 90);
    List<FileEntry> files = table.now().entries();
    assertThat(files).hasSize(2 + 3 + 10 + 3 * 10);
    Condition oneDay = Condition.column("day").equalTo(day(85));
    assertThat(read(oneDay)).isEqualTo(Map.of(0L, 0L, 1L, 0L, 2L, 0L, 3L, 3L));
    assertThat(read(oneDay.and(Condition.column("gauge").equalTo("C"))))
        .isEqualTo(Map.of(0L, 0L, 1L, 0L, 2L, 0L, 3L, 1L));
    assertThat(read(Condition.column("day").equalTo(day(75)))).containsEntry(2L, 1L);
    assertThat(read(Condition.column("day").equalTo(day(40)))).containsEntry(1L, 1L);
    assertThat(table.scan().where(oneDay).count()).isEqualTo(8);
    // A year later the column is wider and has another name: files are pruned as before.
    table.alter().rename("day", "at").widen("at", Types.TIMESTAMP).run();
    assertThat(read(Condition.column("at").equalTo(day(85).atStartOfDay())))
        .isEqualTo(Map.of(0L, 0L, 1L, 0L, 2L, 0L, 3L, 3L));
    assertThat(table.scan().where(Condition.column("gauge").equalTo("C")).count()).isEqualTo(81);
    assertThat(read(Condition.column("gauge").equalTo("C"))).containsEntry(3L, 10L);
  }

  @Test
  void rowChangesAndMergesOpenOnlyFilesOfPartsThatCanMatch() {
    Set<String> opened = new TreeSet<>();
    MemoryStore store = new MemoryStore();
    Schema schema =
        Schema.of(Field.of("id", Types.text()), Field.of("v", Types.INTEGER)).withKey("id");
    TableSettings unranged = TableSettings.DEFAULTS.with(TableSettings.RANGED_COLUMNS, 0);
    LayoutPlan plan = LayoutPlan.none().rule("hash id into 8");
    try (Lake made = Lake.create(store)) {
      try (Append append = made.createTable("t.h", schema, unranged, plan).append()) {
        for (int i = 0; i < 1000; i++) {
          append.add("id-" + i, i);
        }
        append.commit();
      }
    }
    ForwardingStore counting =
        new ForwardingStore(store) {
          @Override
          public ObjectInput open(String name) {
            if (name.startsWith("data/")) {
              opened.add(name);
            }
            return super.open(name);
          }
        };
    try (Lake opening = Lake.open(counting)) {
      Table hashed = opening.table("t.h");
      assertThat(hashed.now().files()).hasSize(8);
      hashed
          .upsert(MergeSource.values(List.of("id", "v"), to -> to.add(new Object[] {"id-500", -1})))
          .run();
      assertThat(opened).hasSize(1);
      opened.clear();
      hashed.delete().where(Condition.column("id").in(List.of("id-7", "id-500"))).run();
      assertThat(opened.size()).isBetween(1, 3);
      opened.clear();
      assertThat(hashed.scan().where(Condition.column("id").equalTo("id-9")).count()).isEqualTo(1);
      assertThat(opened).hasSize(1);
    }
  }

  @Test
  void oldFilesAreRewrittenToTheNewestLayoutOnRequest() {
    appendDays(10, 40);
    table.alter().layout(LayoutPlan.none().rule("range day every 1 month").sortedBy("gauge")).run();
    appendDays(41, 45);
    long files = table.now().files().size();
    List<Object> counts = column("count", table.now());
    WriteResult january =
        table.rewrite().where(Condition.column("day").lessThan(day(5))).run("tidy");
    assertThat(january.report().filesRewritten()).isEqualTo(2);
    assertThat(table.now().record().operation()).isEqualTo("rewrite");
    assertThat(table.now().record().counts().rowsAdded()).isZero();
    assertThat(table.now().files()).hasSize((int) files - 1);
    table.rewrite().ofOlderLayouts().run();
    assertThat(table.now().entries()).allMatch(file -> file.numbers().layout() == 1).hasSize(4);
    assertThat(column("count", table.now())).containsExactlyInAnyOrderElementsOf(counts);
    assertThat(table.rewrite().ofOlderLayouts().run().committed()).isEmpty();
    List<Object> gauges =
        column("gauge", table.now()).subList(0, (int) table.now().files().get(0).rows());
    assertThat(gauges).isSortedAccordingTo((a, b) -> ((String) a).compareTo((String) b));
  }

  @Test
  void rowsRemovedWhileTheirFileIsRewrittenStayRemoved() {
    appendDays(10, 20);
    table.alter().layout(LayoutPlan.none().rule("hash gauge into 3")).run();
    try (Transaction work = lake.begin()) {
      work.table("t.x").rewrite().run();
      Table other = Lake.open(directory.resolve("lake")).table("t.x");
      other.delete().where(Condition.column("gauge").equalTo("C")).run();
      work.commit();
    }
    assertThat(table.scan().where(Condition.column("gauge").equalTo("C")).count()).isZero();
    assertThat(table.scan().count()).isEqualTo(2 + 7 * 11);
  }

  @Test
  void rowsChangedTwiceWhileTheirFileIsMovedAreThereOnce() {
    appendDays(10, 10);
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside
          .delete()
          .where(Condition.column("gauge").greaterThan("C"))
          .style(ChangeStyle.REWRITE)
          .run();
      inside.update().where(Condition.column("day").equalTo(day(10))).set("count", 5).run();
      Lake.open(directory.resolve("lake")).table("t.x").rewrite().run();
      work.commit();
    }
    assertThat(column("gauge", table.now())).containsExactlyInAnyOrder("A", "B", "A", "B", "C");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "range level every 5 days|has no days",
        "range day every 2 hours|has no hours",
        "range gauge every 5|needs a unit or bounds",
        "range gauge at 'M', 'F'|its bounds must ascend",
        "range health every 5|a layout uses columns of single values",
        "hash gauge into 0|its number is from 1",
        "hash gauge|it lacks into",
        "list gauge of ('A'), ('A')|is in it twice",
        "list gauge of 'A'|there is a ( missing",
        "heap gauge|it must start with range, list or hash",
        "hash gage into 4|Did you mean gauge?",
        "range count at 5, x|is not a value of INTEGER"
      })
  void aRuleThatCannotBeIsRefused(String rule, String why) {
    refused(table.alter().layout(LayoutPlan.none().rule(rule)), why);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "list gauge|3",
        "list gauge of ('A', 'C')|2",
        "range gauge at 'B', 'C'|3",
        "range health.battery every 10|2",
        "hash health.firmware into 5|2",
        "range level every 2|3",
        "range day every 2 years|1"
      })
  void rowsGoToTheFileOfTheirPart(String rule, int files) {
    table.delete().all().run();
    table.alter().layout(LayoutPlan.none().rule(rule)).run();
    try (Append append = table.append()) {
      append.addRow(row("A", 1, "1", 1));
      append.addRow(row("B", 2, "3", 2));
      append.addObject(
          Map.of(
              "gauge", "C", "day", "2026-01-02", "health", Map.of("battery", 5, "firmware", "x")));
      append.commit();
    }
    assertThat(table.now().files()).hasSize(files);
    assertThat(table.now().page().form().layout().text(table.schema())).isEqualTo(rule);
    assertThat(table.scan().where(Condition.column("gauge").equalTo("B")).count()).isEqualTo(1);
    assertThat(table.scan().where(Condition.column("health.battery").equalTo(5)).count())
        .isEqualTo(1);
    assertThat(table.scan().where(Condition.column("health.firmware").isNull()).count())
        .isEqualTo(2);
    assertThat(table.scan().where(Condition.column("level").atLeast(3)).count()).isEqualTo(1);
  }

  @Test
  void whatComparingFindsMakesOneFormIntoTheOther() {
    TableForm before = table.now().page().form();
    table
        .alter()
        .rename("level", "level_cm")
        .rename("count", "level")
        .add(Field.of("salinity", Types.DOUBLE).notNull().withDefault(1.0), Place.FIRST)
        .drop("health.firmware")
        .addIn("marks.element", Field.of("y", Types.DATE), Place.FIRST)
        .widen("day", Types.TIMESTAMP)
        .comment("gauge", "which")
        .check("c", Condition.column("level").greaterThan(0))
        .layout(LayoutPlan.none().rule("hash gauge into 4").sortedBy("day descending"))
        .run();
    TableForm after = table.now().page().form();
    List<Alteration> changes = FormComparison.ofVersions(before, after);
    assertThat(changes).contains(new Alteration.RenameColumn("level", "level_cm"));
    assertMakes(before, changes, after);
    assertMakes(after, FormComparison.ofVersions(after, before), before);
    assertMakes(after, FormComparison.ofTables(after, before), before);
    assertMakes(before, FormComparison.ofTables(before, after), after);
    assertThat(FormComparison.ofVersions(after, after)).isEmpty();
    table
        .alter()
        .layout(
            LayoutPlan.none()
                .rule("range day at '2026-01-05T00:00'")
                .rule("list level of (1, 2), (-3)"))
        .run();
    table.alter().widen("level", Types.decimal(20, 3)).run();
    TableForm wider = table.now().page().form();
    assertThat(wider.layout().text(wider.schema()))
        .isEqualTo("range day at '2026-01-05T00:00'; list level of (1, 2), (-3)");
    assertMakes(before, FormComparison.ofVersions(before, wider), wider);
  }

  static void assertMakes(TableForm from, List<Alteration> changes, TableForm to) {
    FormEditor editor = new FormEditor(from, TableNumbers.of(from));
    changes.forEach(editor::apply);
    TableForm made = editor.form();
    assertThat(made.schema()).hasToString(to.schema().toString());
    assertThat(made.checks()).hasToString(to.checks().toString());
    assertThat(made.layout().text(made.schema())).isEqualTo(to.layout().text(to.schema()));
  }

  @Test
  void alteringMayBePartOfATransaction() {
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside.alter().add(Field.of("c", Types.INTEGER).withDefault(5)).run();
      inside.update().where(Condition.column("c").equalTo(5)).set("count", 9).run();
      inside.alter().drop("level").rename("c", "d").run();
      inside.add("C", day(3), 1, null, null, 8);
      assertThat(inside.scan().where(Condition.column("d").equalTo(8)).count()).isEqualTo(1);
      TransactionTable made =
          work.createTable(
              "t.y", SCHEMA, TableSettings.DEFAULTS, LayoutPlan.none().rule("list gauge"));
      made.alter()
          .add(Field.of("e", Types.DATE))
          .check("c", Condition.column("count").isNull())
          .run();
      made.addRow(row("A", 1, null, null));
      work.commit();
    }
    assertThat(column("count", table.now())).containsExactly(9, 9, 1);
    assertThat(column("d", table.now())).containsExactly(5, 5, 8);
    assertThat(table.now().version()).isEqualTo(3);
    assertThat(lake.table("t.y").schema().columns()).hasSize(7);
    assertThat(lake.table("t.y").scan().count()).isEqualTo(1);
    assertThat(lake.table("t.y").now().page().form().checks()).hasSize(1);
  }

  @Test
  void anotherReaderOpensTheFilesOfEverySchemaAndLayout() throws SQLException {
    table.alter().layout(LayoutPlan.none().rule("list gauge").sortedBy("count descending")).run();
    table.alter().add(Field.of("c", Types.INTEGER)).rename("count", "n").drop("level").run();
    try (Append append = table.append()) {
      append.addObject(Map.of("gauge", "A", "day", "2026-02-01", "n", 5, "c", 6));
      append.addObject(Map.of("gauge", "A", "day", "2026-02-02", "n", 7));
      append.commit();
    }
    table.update().where(Condition.column("gauge").equalTo("B")).set("c", 9).run();
    long rows = 0;
    try (Connection duck = DriverManager.getConnection("jdbc:duckdb:");
        Statement statement = duck.createStatement()) {
      for (FileEntry file : table.now().entries()) {
        Path path = directory.resolve("lake").resolve(file.objectName(table.id()));
        try (ResultSet result =
            statement.executeQuery("SELECT count(gauge) FROM read_parquet('" + path + "')")) {
          result.next();
          rows += result.getLong(1);
        }
      }
    }
    assertThat(rows).isEqualTo(4);
  }
}
