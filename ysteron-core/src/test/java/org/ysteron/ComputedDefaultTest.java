package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Expression.column;
import static org.ysteron.expr.Expression.literal;
import static org.ysteron.expr.Expression.now;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.error.UnsupportedLakeException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Expression;
import org.ysteron.expr.TimeUnit;
import org.ysteron.intake.OutsideFile;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.json.SchemaJson;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.Drift;

/** Defaults that are computed: for each statement once, by whatever way its rows come. */
class ComputedDefaultTest {
  private static final Field WRITTEN =
      Field.of("written_at", Types.INSTANT).notNull().withDefault(now());

  @TempDir private Path directory;
  private Lake lake;
  private Table table;
  private Instant before;

  @BeforeEach
  void create() {
    lake = Lake.create(directory.resolve("lake"));
    table =
        lake.createTable(
            "t.x",
            Schema.of(Field.of("k", Types.INTEGER), Field.of("t", Types.text()), WRITTEN)
                .withKey("k"));
    before = Instant.now().truncatedTo(ChronoUnit.MICROS);
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private Set<Instant> times() {
    Set<Instant> times = new HashSet<>();
    try (Results<Row> rows = table.scan().rows()) {
      rows.forEach(row -> times.add((Instant) row.get("written_at")));
    }
    assertThat(times).allMatch(time -> !time.isBefore(before) && !time.isAfter(Instant.now()));
    return times;
  }

  @Test
  void rowsOfFilesHaveItToo() throws IOException {
    Path csv = Files.writeString(directory.resolve("x.csv"), "k,t\n1,one\n2,two\n");
    Path json = Files.writeString(directory.resolve("x.jsonl"), "{\"k\":3}\n{\"k\":4}\n");
    Schema asTold = table.schema();
    lake.close();
    lake = Lake.open(directory.resolve("lake"));
    table = lake.table("t.x");
    try (Append append = table.append()) {
      OutsideFile.of(csv).read(asTold, append);
      OutsideFile.of(json).read(asTold, append);
      append.commit();
    }
    assertThat(table.scan().count()).isEqualTo(4);
    assertThat(times()).hasSize(1);
  }

  @Test
  void aMergeHasOneTimeForItsClausesAndItsDefaults() {
    for (String drift : List.of("strict", "grow")) {
      table.alter().set("drift", drift).run();
      table
          .merge(
              MergeSource.named(
                  rows -> rows.addObject(Map.of("k", 1)).addObject(Map.of("k", drift.length()))))
          .unmatched(Merge.set(Map.of("k", Column.ofSource("k"), "t", now().cast(Types.text()))))
          .run();
      table
          .upsert(MergeSource.named(rows -> rows.addObject(Map.of("k", 10 + drift.length()))))
          .run();
    }
    assertThat(table.scan().where(column("t").isNull()).count()).isEqualTo(2);
    assertThat(
            table
                .scan()
                .where(
                    column("t")
                        .isNotNull()
                        .and(column("t").equalTo(column("written_at").cast(Types.text()))))
                .count())
        .isEqualTo(3);
    assertThat(times()).hasSize(4);
  }

  @ParameterizedTest
  @EnumSource
  void aMergeOfAFileByPositionHasItToo(Drift drift) throws IOException {
    Path csv = Files.writeString(directory.resolve("x.csv"), "k,t\n1,one\n2,two\n");
    Schema schema = table.schema();
    table
        .upsert(
            MergeSource.values(
                List.of("k", "t", "written_at"), rows -> OutsideFile.of(csv).read(schema, rows)))
        .rules(rules -> rules.with(drift))
        .run();
    assertThat(table.scan().count()).isEqualTo(2);
    assertThat(times()).hasSize(1);
  }

  /** Rows that wait until the table has grown, or have something set aside. */
  @ParameterizedTest
  @EnumSource
  void whateverBecomesOfOtherColumns(Drift drift) {
    table.alter().check("small", column("k").lessThan(100)).run();
    boolean extra = drift.grows() || drift.setsAside();
    try (Append append = table.append(rules -> rules.with(drift))) {
      append.addObject(Map.of("k", 1));
      append.addObject(extra ? Map.of("k", 2, "extra", 5) : Map.of("k", 2));
      append.addText(
          new TextRow(extra ? List.of("k", "more") : List.of("k", "t"), new String[] {"3", "new"}));
      append.addObject(Map.of("k", 4, "t", "four"));
      append.commit();
    }
    table
        .upsert(
            MergeSource.named(
                rows -> rows.addObject(extra ? Map.of("k", 5, "third", true) : Map.of("k", 5))))
        .rules(rules -> rules.with(drift))
        .run();
    assertThat(table.scan().count()).isEqualTo(5);
    assertThat(times()).hasSize(2);
  }

  @Test
  void rowsThatAreThereHaveTheTimeOfTheAlteration() {
    add(1);
    table
        .alter()
        .add(Field.of("seen", Types.DATE).notNull().withDefault(now().cast(Types.DATE)))
        .add(Field.of("exact", Types.INSTANT).withDefault(now().plus(Duration.ofDays(1))))
        .run();
    Instant first = (Instant) only(1).get("exact");
    assertThat(first.minus(Duration.ofDays(1))).isBetween(before, Instant.now());
    add(2);
    Instant second = (Instant) only(2).get("exact");
    assertThat(second).isAfter(first);
    assertThat(only(1).get("exact")).isEqualTo(first);
    assertThat(only(1).get("seen"))
        .isIn(LocalDate.now(ZoneOffset.UTC), LocalDate.now(ZoneOffset.UTC).minusDays(1));
    table.compact().full().run();
    assertThat(only(1).get("exact")).isEqualTo(first);
    assertThat(table.scan().where(column("exact").equalTo(second)).count()).isEqualTo(1);
    table.alter().dropDefault("exact").run();
    add(3);
    assertThat(only(3).get("exact")).isNull();
    table.alter().setDefault("exact", first).run();
    add(4);
    assertThat(only(4).get("exact")).isEqualTo(first);
  }

  @Test
  void aDefaultOfADateGoesOnWhenTheColumnIsWidened() {
    table.alter().add(Field.of("d", Types.DATE).withDefault(now().cast(Types.DATE))).run();
    table.alter().widen("d", Types.TIMESTAMP).run();
    add(1);
    assertThat(only(1).get("d"))
        .isIn(
            LocalDate.now(ZoneOffset.UTC).atStartOfDay(),
            LocalDate.now(ZoneOffset.UTC).minusDays(1).atStartOfDay());
  }

  @Test
  void oneFormulaIsAValueOfTheTypeOfEachColumn() {
    Expression today = now().cast(Types.DATE);
    Expression year = now().extract(TimeUnit.YEAR);
    table
        .alter()
        .add(Field.of("d", Types.DATE).withDefault(today))
        .add(Field.of("t1", Types.TIMESTAMP).withDefault(today))
        .add(Field.of("y", Types.INTEGER).withDefault(year))
        .add(Field.of("z", Types.BIGINT).withDefault(year))
        .add(Field.of("w", Types.decimal(9, 2)).withDefault(year))
        .run();
    add(1);
    table.upsert(MergeSource.named(rows -> rows.addObject(Map.of("k", 2)))).run();
    for (int k = 1; k < 3; k++) {
      Row row = only(k);
      LocalDate day = (LocalDate) row.get("d");
      assertThat(row.get("t1")).isEqualTo(day.atStartOfDay());
      assertThat(row.get("y")).isEqualTo(day.getYear());
      assertThat(row.get("z")).isEqualTo((long) day.getYear());
      assertThat(row.get("w")).isEqualTo(new BigDecimal(day.getYear() + ".00"));
    }
  }

  @Test
  void whatIsConstantBecomesAValue() {
    table
        .alter()
        .add(Field.of("n", Types.decimal(5, 1)).withDefault(literal(1).plus(2)))
        .add(Field.of("u", Types.text()).withDefault(literal("a").upper()))
        .add(Field.of("none", Types.text()).withDefault(literal(null)))
        .run();
    Schema schema = table.schema();
    assertThat(schema.find("n").writeDefault()).contains(new BigDecimal("3.0"));
    assertThat(schema.find("u").standard()).isEqualTo("A");
    assertThat(schema.find("none").hasDefault()).isFalse();
    assertThat(schema.find("written_at").defaultText()).contains("CURRENT_TIMESTAMP");
    assertThat(schema.toString()).contains("written_at", "NOT NULL DEFAULT CURRENT_TIMESTAMP");
    Type.Struct struct =
        new Type.Struct(List.of(Field.of("x", Types.INTEGER).withDefault(literal(4).minus(1))));
    table.alter().add(Field.of("deep", struct)).run();
    assertThat(table.schema().find("deep.x").writeDefault()).contains(3);
    table.alter().setDefault("deep.x", literal(2).times(4)).run();
    assertThat(table.schema().find("deep.x").writeDefault()).contains(8);
  }

  @Test
  void whatCannotBeADefaultIsRefused() {
    refused(Field.of("a", Types.INTEGER).withDefault(literal(1).dividedBy(0)), "division by zero");
    refused(Field.of("a", Types.INTEGER).withDefault(column("k").plus(1)), "cannot use columns");
    refused(Field.of("a", Types.INTEGER).withDefault(now()), "default of column a");
    refused(Field.of("a", Types.text(3)).withDefault(literal("abcd")), "default of column a");
    Field inner = Field.of("at", Types.INSTANT).withDefault(now());
    Type.Struct struct = new Type.Struct(List.of(inner));
    refused(Field.of("a", struct), "only columns of the table");
    refused(Field.of("a", Types.listOf(struct)), "only columns of the table");
    assertThatThrownBy(() -> lake.createTable("t.y", Schema.of(Field.of("a", struct))))
        .isInstanceOf(InvalidInputException.class);
    assertThat(lake.findTable("t.y")).isEmpty();
    table.alter().add(Field.of("s", Types.struct(Field.of("at", Types.INSTANT)))).run();
    assertThatThrownBy(() -> table.alter().setDefault("s.at", now()).run())
        .hasMessageContaining("only columns of the table");
    assertThatThrownBy(() -> table.alter().addIn("s", inner.withName("b"), Place.LAST).run())
        .hasMessageContaining("only columns of the table");
    assertThatThrownBy(() -> table.alter().setDefault("k", now()).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("default of column k");
    try (Append append = table.append()) {
      assertThatThrownBy(() -> append.add(1, "x", now().plus(Duration.ofDays(1)), null))
          .isInstanceOf(RejectedRowException.class);
    }
    add(1);
  }

  /** NULL is no value for rows that are there, also when a default computes it. */
  @Test
  void aDefaultOfNullIsNoneForRowsThatAreThere() {
    add(1);
    Expression year = now().extract(TimeUnit.YEAR);
    for (Expression none : List.of(literal(null), year.nullIf(year))) {
      refused(Field.of("a", Types.INTEGER).notNull().withDefault(none), "existing rows");
    }
    table.alter().add(Field.of("a", Types.INTEGER).withDefault(year.nullIf(year))).run();
    assertThat(only(1).get("a")).isNull();
  }

  /** A default that fails at one time and not at another is an error of the rows that need it. */
  @Test
  void aDefaultThatFailsLaterRejectsTheRow() {
    Expression failing =
        literal(1).dividedBy(now().extract(TimeUnit.YEAR).minus(now().extract(TimeUnit.YEAR)));
    table.alter().add(Field.of("n", Types.decimal(20, 6))).setDefault("n", failing).run();
    assertThatThrownBy(() -> add(1))
        .isInstanceOf(RejectedRowException.class)
        .hasMessageContaining("column n")
        .hasMessageContaining("division by zero");
    try (Append append = table.append()) {
      append.add(1, "x", before, BigDecimal.ONE);
      append.commit();
    }
    refused(Field.of("m", Types.decimal(20, 6)).withDefault(failing), "division by zero");
  }

  @Test
  void twoWhoSetTheSameDefaultConflict() {
    try (Transaction work = lake.begin()) {
      work.table("t.x").alter().setDefault("written_at", now().plus(Duration.ofDays(1))).run();
      table.alter().setDefault("written_at", now().plus(Duration.ofDays(2))).run();
      assertThatThrownBy(work::commit).isInstanceOf(ConflictException.class);
    }
    assertThat(table.now().alterationsTo(table.at(0)))
        .anyMatch(each -> each.toString().contains("CURRENT_TIMESTAMP"));
  }

  @Test
  void anUnknownDefaultIsKeptAndNotComputed() {
    Map<?, ?> json =
        (Map<?, ?>)
            Json.parse(
                Json.write(SchemaJson.toJson(table.schema()))
                    .replace("\"call\":\"current timestamp\"", "\"whirl\":1"));
    Schema read = SchemaJson.fromJson(json);
    assertThat(Json.write(SchemaJson.toJson(read))).isEqualTo(Json.write(json));
    assertThat(read.find("written_at").defaultText()).contains("CURRENT_TIMESTAMP");
    assertThatThrownBy(() -> new Defaults(before).value(read.find("written_at")))
        .isInstanceOf(UnsupportedLakeException.class);
  }

  private void refused(Field field, String why) {
    assertThatThrownBy(() -> table.alter().add(field).run())
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining(why);
  }

  private void add(int k) {
    try (Append append = table.append()) {
      append.addObject(Map.of("k", k));
      append.commit();
    }
  }

  private Row only(int k) {
    try (Results<Row> rows = table.scan().where(column("k").equalTo(k)).rows()) {
      return rows.iterator().next();
    }
  }
}
