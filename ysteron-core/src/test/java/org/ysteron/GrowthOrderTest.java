package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.option.Drift;
import org.ysteron.option.WriteRules;
import org.ysteron.store.MemoryStore;

/**
 * A table that grows by rows becomes the same whatever their order and form, and nothing is lost.
 */
class GrowthOrderTest {
  private static final List<Type> FLOORS =
      List.of(
          Types.INTEGER,
          Types.BIGINT,
          Types.REAL,
          Types.DOUBLE,
          Types.decimal(6, 2),
          Types.text(4),
          Types.text(),
          Types.DATE,
          Types.TIMESTAMP,
          Types.BOOLEAN,
          Types.INSTANT);

  /** Values as JSON has them, some of a kind in each line. */
  private static final List<List<String>> VALUES =
      List.of(
          List.of("1", "22", "3000000000", "-7"),
          List.of("1", "2.5", "3000000000", "0.1", "7.25"),
          List.of("12345", "\"02134\"", "5"),
          List.of("true", "false", "null"),
          List.of("true", "1", "\"x\""),
          List.of("\"2026-03-01\"", "\"2026-03-01T12:30:00\"", "null"),
          List.of("\"2026-03-01\"", "\"n/a\""),
          List.of("\"2026-03-01T12:30:00Z\"", "\"2026-03-01T12:30:00+02:00\"", "null"),
          List.of("\"12:30\"", "\"12:30:05.25\""),
          List.of("9007199254740993", "0.5", "1", "123456789012345678901234567890"),
          List.of("0.1234567890123456789", "16777217", "4", "-0.0"),
          List.of("99999.99", "1234567.5", "0.001", "2"),
          List.of("\"a\"", "\"longer than four\"", "null"),
          List.of("12345678901234567890123456789012345678901234", "1"));

  /** Values that only JSON has. */
  private static final List<List<String>> NESTED =
      List.of(
          List.of("[]", "[1]", "null", "[2.5, null]", "[[]]"),
          List.of("[0.1]", "[3000000000]", "[1, 16777217]", "[0.5, 0.1]"),
          List.of("{\"a\": 0.1}", "{\"a\": 3000000000}", "{\"a\": 4, \"b\": [0.1]}"),
          List.of("{}", "{\"a\": 1}", "{\"b\": [], \"a\": 2.5}", "{\"b\": [true]}"),
          List.of(
              "{\"a\": {\"x\": 1}}", "{\"a\": {}}", "{\"c\": \"2026-03-01\", \"a\": {\"y\": 0}}"),
          List.of("1", "[1]", "{}", "\"t\""),
          List.of("[{\"a\": 1}, {}]", "[]", "[{\"b\": \"x\"}]"));

  /** What a load came to, for comparing. */
  private record Outcome(boolean refused, Map<String, String> columns, List<String> rows) {}

  private static Outcome load(
      Schema floor, Drift drift, boolean ignoreCase, List<String> json, List<Integer> csv) {
    try (Lake lake = Lake.create(new MemoryStore())) {
      Table table = lake.createTable("t.x", floor);
      WriteRules rules = WriteRules.STRICT.with(drift);
      try (Append append = table.append(own -> ignoreCase ? rules.ignoringCase() : rules)) {
        for (int i = 0; i < json.size(); i++) {
          Map<String, Object> members = object(json.get(i));
          if (csv.contains(i)) {
            append.addText(texts(members));
          } else {
            append.addObject(members);
          }
        }
        append.commit();
        assertThat(append.rows()).isEqualTo(json.size());
      } catch (InvalidInputException e) {
        assertThat(table.now().version()).isZero();
        return new Outcome(true, Map.of(), List.of());
      }
      assertThat(table.now().version()).isEqualTo(1);
      assertThat(table.now().files().size()).isLessThanOrEqualTo(2);
      Map<String, String> columns = new LinkedHashMap<>();
      table.schema().columns().forEach(c -> columns.put(c.name(), c.type().toString()));
      List<String> rows = new ArrayList<>();
      for (Row row : table.scan().rows()) {
        rows.add(row.toString());
        isWhole(json, row);
      }
      Collections.sort(rows);
      return new Outcome(false, columns, rows);
    }
  }

  /** Every value that came is in its column, or set aside, as it was. */
  private static void isWhole(List<String> json, Row row) {
    for (String given : json) {
      Map<String, Object> members = object(given);
      if (members.get("id").equals(row.get("id"))) {
        members.forEach(
            (name, value) ->
                assertThat(holds(row, name, value))
                    .as("%s of %s in %s", name, given, row)
                    .isTrue());
      }
    }
  }

  private static boolean holds(Row row, String name, Object given) {
    List<String> columns = row.fields().stream().map(Field::name).toList();
    boolean hasMore = columns.contains("leftovers") && row.get("leftovers") != null;
    Object rest = hasMore ? object((String) row.get("leftovers")).get(name) : null;
    return isHeldAs(name, given, row, rest);
  }

  /** Whether a value is in the field of a name, or was set aside, or told nothing of a field. */
  private static boolean isHeldAs(String name, Object given, Row row, Object rest) {
    boolean isField = row.fields().stream().anyMatch(field -> field.name().equals(name));
    return (isField || rest != null)
        ? isHeld(given, isField ? row.get(name) : null, rest)
        : tellsNothing(given);
  }

  /** Whether a value adds no column, nor a member of one, when all others are like it. */
  private static boolean tellsNothing(Object given) {
    return given == null
        || (given instanceof List<?> list && list.stream().allMatch(GrowthOrderTest::tellsNothing))
        || (given instanceof Map<?, ?> map
            && map.values().stream().allMatch(GrowthOrderTest::tellsNothing));
  }

  /** Whether a value is in a column, or was set aside, or a part of it each. */
  private static boolean isHeld(Object given, Object stored, Object rest) {
    if (rest != null && Json.write(rest).equals(Json.write(given))) {
      return true;
    }
    if (given instanceof Map<?, ?> map && stored instanceof Row row) {
      Map<?, ?> more = rest instanceof Map<?, ?> members ? members : Map.of();
      return map.keySet().stream()
          .map(String.class::cast)
          .allMatch(name -> isHeldAs(name, map.get(name), row, more.get(name)));
    }
    if (given instanceof List<?> list && stored instanceof List<?> values) {
      return list.size() == values.size()
          && IntStream.range(0, list.size())
              .allMatch(i -> isHeld(list.get(i), values.get(i), null));
    }
    return given == null ? stored == null : isSame(given, stored);
  }

  private static boolean isSame(Object given, Object stored) {
    if (given instanceof Number && stored instanceof Number) {
      BigDecimal one = new BigDecimal(given.toString());
      return one.compareTo(new BigDecimal(stored.toString())) == 0;
    }
    String text = given.toString();
    if (stored instanceof LocalDateTime time) {
      boolean isDate = text.length() == "2026-03-01".length();
      return time.equals(LocalDateTime.parse(isDate ? text + "T00:00" : text));
    }
    if (stored instanceof Instant instant) {
      return OffsetDateTime.parse(text).toInstant().equals(instant);
    }
    if (stored instanceof LocalTime time) {
      return LocalTime.parse(text).equals(time);
    }
    boolean isJson = stored instanceof String document && document.equals(Json.write(given));
    return isJson || text.equals(String.valueOf(stored));
  }

  @SuppressWarnings("unchecked") // JSON objects have text for names
  private static Map<String, Object> object(String json) {
    return (Map<String, Object>) Json.parse(json);
  }

  /** The row as it would stand in CSV. */
  private static TextRow texts(Map<String, Object> members) {
    return new TextRow(
        List.copyOf(members.keySet()),
        members.values().stream()
            .map(value -> value == null ? null : value.toString())
            .toArray(String[]::new));
  }

  private static List<String> rows(Random random, List<List<String>> kinds, int columns) {
    List<List<String>> of = new ArrayList<>();
    for (int c = 0; c < columns; c++) {
      of.add(kinds.get(random.nextInt(kinds.size())));
    }
    List<String> rows = new ArrayList<>();
    for (int i = 0; i < 2 + random.nextInt(12); i++) {
      StringBuilder row = new StringBuilder("{\"id\": " + i);
      for (int c = 0; c < columns; c++) {
        String value = of.get(c).get(random.nextInt(of.get(c).size()));
        row.append(", \"x" + c + "\": " + value);
      }
      rows.add(row + "}");
    }
    return rows;
  }

  private static Schema floor(Random random, int columns) {
    List<Field> fields = new ArrayList<>(List.of(Field.of("id", Types.INTEGER)));
    for (int c = 0; c < columns; c++) {
      if (random.nextBoolean()) {
        fields.add(Field.of("x" + c, FLOORS.get(random.nextInt(FLOORS.size()))));
      }
    }
    return Schema.of(fields);
  }

  private static void sameInAnyOrder(
      Random random, Schema floor, List<String> rows, boolean somethingAsText) {
    Drift drift = random.nextBoolean() ? Drift.GROW : Drift.GROW_OR_SET_ASIDE;
    boolean ignoreCase = random.nextBoolean();
    Outcome first = load(floor, drift, ignoreCase, rows, List.of());
    for (int i = 0; i < 4; i++) {
      List<String> other = new ArrayList<>(rows);
      Collections.shuffle(other, random);
      List<Integer> csv = new ArrayList<>();
      for (int r = 0; somethingAsText && r < rows.size(); r++) {
        if (i == 0 || random.nextInt(3) == 0) {
          csv.add(r);
        }
      }
      assertThat(load(floor, drift, ignoreCase, other, csv))
          .as("%s of %s as texts, %s into %s", other, csv, drift, floor.struct())
          .isEqualTo(first);
    }
  }

  @Test
  void valuesThatTellNothingAddNoColumnAndNoMember() {
    List<String> rows = List.of("{\"id\": 1, \"x\": {\"a\": 1, \"b\": []}, \"y\": [{}]}");
    Outcome made =
        load(Schema.of(Field.of("id", Types.INTEGER)), Drift.GROW, false, rows, List.of());
    assertThat(made.columns()).isEqualTo(Map.of("id", "INTEGER", "x", "ROW(a INTEGER)"));
  }

  @Property(tries = 60)
  void anyOrderAndAnyFormMakeTheSameTable(@ForAll long seed) {
    Random random = new Random(seed);
    int columns = 1 + random.nextInt(3);
    sameInAnyOrder(random, floor(random, columns), rows(random, VALUES, columns), true);
  }

  @Property(tries = 40)
  void anyOrderOfNestedValuesMakesTheSameTable(@ForAll long seed) {
    Random random = new Random(seed);
    Schema floor =
        random.nextBoolean()
            ? floor(random, 2)
            : Schema.of(
                Field.of("id", Types.INTEGER),
                Field.of("x0", Types.struct(Field.of("a", Types.INTEGER).notNull())),
                Field.of("x1", Types.listOf(random.nextBoolean() ? Types.INTEGER : Types.REAL)));
    sameInAnyOrder(random, floor, rows(random, NESTED, 2), false);
  }
}
