package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.startsWith;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.doReturn;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.spy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import org.junit.jupiter.params.provider.ValueSource;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.error.EndedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectOutput;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;

/** Whatever is wrong is answered by one clear error, and nothing has changed. */
class BadInputTest {
  private static final Schema SCHEMA =
      Schema.of(
          Field.of("id", Types.INTEGER).notNull(),
          Field.of("level", Types.decimal(5, 1)),
          Field.of("name", Types.text(4)).withDefault("none"),
          Field.of("tags", Types.listOf(Types.INTEGER)));

  @TempDir Path directory;
  private ObjectStore store;
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeALake() {
    store = spy(new MemoryStore());
    lake = Lake.create(store);
    table = lake.createTable("t.x", SCHEMA);
  }

  private void nothingChanged() {
    assertThat(table.now().version()).isZero();
    assertThat(table.scan().count()).isZero();
    assertThat(store.list("data/" + table.id(), "", 10)).isEmpty();
  }

  private void appendOne() {
    try (Append append = table.append()) {
      append.add(1, null, "a", null);
      append.commit();
    }
  }

  static List<Arguments> wrongRows() {
    return List.of(
        Arguments.of(
            new Object[] {1, null, "a"}, "Row 2 has 3 values, but the table has 4 columns"),
        Arguments.of(new Object[] {1, null, "a", null, 5}, "Row 2 has 5 values"),
        Arguments.of(
            new Object[] {null, null, "a", null},
            "Row 2, column id (INTEGER): null, but id is NOT"),
        Arguments.of(new Object[] {"1", null, "a", null}, "column id (INTEGER): '1' is a String"),
        Arguments.of(
            new Object[] {1, new BigDecimal("99999.9"), "a", null},
            "column level (DECIMAL(5, 1)): 99999.9 is out of the range of DECIMAL(5, 1)"),
        Arguments.of(
            new Object[] {1, new BigDecimal("1.25"), "a", null},
            "column level (DECIMAL(5, 1)): 1.25 has more decimal places than the 1"),
        Arguments.of(
            new Object[] {1, null, "abcde", null}, "column name (VARCHAR(4)): 'abcde' has 5"),
        Arguments.of(
            new Object[] {1, null, "a", List.of("x")}, "column tags (INTEGER ARRAY): 'x'"));
  }

  @ParameterizedTest
  @MethodSource("wrongRows")
  void wrongRowsAreNamedByNumberColumnValueAndType(Object[] row, String message) {
    try (Append append = table.append()) {
      append.add(1, null, "a", null);
      assertThatThrownBy(() -> append.add(row))
          .isInstanceOf(InvalidInputException.class)
          .hasMessageContaining(message);
    }
    nothingChanged();
  }

  @Test
  void rowsByNameTakeDefaultsAndRefuseStrangers() {
    Type.Struct known = (Type.Struct) Types.struct(Field.of("id", Types.INTEGER));
    Type.Struct strange =
        (Type.Struct) Types.struct(Field.of("id", Types.INTEGER), Field.of("lvl", Types.REAL));
    try (Append append = table.append()) {
      append.addRow(Row.of(known, 7));
      assertThatThrownBy(() -> append.addRow(Row.of(strange, 8, 1f)))
          .hasMessageContaining(
              "Row 2: there is no column lvl (did you mean level?). Nothing was changed");
      append.commit();
    }
    assertThat(table.scan().rows().next().orElseThrow().values())
        .containsExactly(7, null, "none", null);
  }

  @Test
  void wrongBatchesAreNamed() {
    Vector ids = new Vector.OfInt(Types.INTEGER, 2, new int[] {1, 2}, new long[] {2});
    Vector wide = new Vector.OfLong(Types.decimal(5, 1), 2, new long[] {1, 999_999}, null);
    try (Append append = table.append()) {
      assertThatThrownBy(
              () ->
                  append.addBatch(
                      new Batch(new Type.Struct(SCHEMA.columns().subList(0, 1)), 2, List.of(ids))))
          .hasMessageContaining("A batch has 1 columns, but the table has 4");
      assertThatThrownBy(() -> append.addBatch(batch(ids, wide)))
          .hasMessageContaining("Row 2, column id (INTEGER): null, but id is NOT NULL");
      Vector present = new Vector.OfInt(Types.INTEGER, 2, new int[] {1, 2}, null);
      assertThatThrownBy(() -> append.addBatch(batch(present, wide)))
          .hasMessageContaining("Row 2, column level (DECIMAL(5, 1)): 99999.9 is out of the range");
      Vector other = new Vector.OfLong(Types.BIGINT, 2, new long[2], null);
      assertThatThrownBy(() -> append.addBatch(batch(present, other)))
          .hasMessageContaining(
              "Column level of a batch is BIGINT, but of the table it is DECIMAL");
    }
    nothingChanged();
  }

  private static Batch batch(Vector ids, Vector levels) {
    Vector names = new Vector.OfBytes(Types.text(4), 2, new byte[2], new int[2], new int[2], null);
    Vector tags =
        new Vector.OfList(
            Types.listOf(Types.INTEGER),
            2,
            new int[3],
            new Vector.OfInt(Types.INTEGER, 0, new int[0], null),
            null);
    return new Batch(SCHEMA.struct(), 2, List.of(ids, levels, names, tags));
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "",
        "x",
        "a.b.c",
        "../x",
        "a./x",
        "t.1x",
        ".x",
        "t.",
        "t.a b",
        "t.a\u0000",
        "t.\"a\"",
        "t.é-"
      })
  void hostileTableNamesAreRefused(String name) {
    assertThatThrownBy(() -> lake.createTable(name, SCHEMA))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("is not a table name. A table name is a namespace and a name");
    assertThatThrownBy(() -> lake.table(name)).isInstanceOf(NotFoundException.class);
    assertThatThrownBy(() -> lake.renameTable("t.x", name)).isInstanceOf(YsteronException.class);
    assertThat(lake.tables()).hasSize(1);
  }

  @Test
  void aTableNameHasALimit() {
    assertThatThrownBy(() -> lake.createTable("t." + "x".repeat(300), SCHEMA))
        .isInstanceOf(InvalidInputException.class);
    assertThat(lake.createTable("größe.höhe_2", SCHEMA).name()).isEqualTo("größe.höhe_2");
  }

  @Test
  void aMissingTableIsAnsweredWithTheNearOne() {
    assertThatThrownBy(() -> lake.table("t.y"))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("There is no table 't.y'")
        .hasMessageContaining("Did you mean t.x?");
  }

  @Test
  void aDirectoryThatIsNoLakeIsLeftAlone() throws IOException {
    Path other = Files.createDirectory(directory.resolve("photos"));
    Files.writeString(other.resolve("one.txt"), "not yours");
    assertThatThrownBy(() -> Lake.open(other))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("There is no lake in");
    assertThatThrownBy(() -> Lake.open(directory.resolve("none")))
        .hasMessageContaining("it is not a directory");
    try (var files = Files.list(other)) {
      assertThat(files).hasSize(1);
    }
  }

  @Test
  void aFullDiskWhileRowsAreWrittenLeavesNothing() throws IOException {
    ObjectOutput full = mock(ObjectOutput.class);
    doThrow(new StoreException("no space is left on the device"))
        .when(full)
        .write(
            any(byte[].class),
            org.mockito.ArgumentMatchers.anyInt(),
            org.mockito.ArgumentMatchers.anyInt());
    doReturn(full).when(store).put(startsWith("data/"));
    assertThatThrownBy(this::appendOne)
        .isInstanceOf(StoreException.class)
        .hasMessageContaining("no space is left");
    nothingChanged();
  }

  @Test
  void aDataFileThatCannotBeMadeDurableMakesNoVersion() {
    ObjectStore plain = new MemoryStore();
    doAnswer(
            call -> {
              ObjectOutput output = spy(plain.put(call.getArgument(0)));
              doThrow(new StoreException("the disk went away")).when(output).commit();
              return output;
            })
        .when(store)
        .put(anyString());
    assertThatThrownBy(this::appendOne)
        .isInstanceOf(StoreException.class)
        .hasMessageContaining("the disk went away");
    nothingChanged();
  }

  @Test
  void whichRowsAreMeantIsSaidOnceAndAtAll() {
    appendOne();
    Condition some = column("id").equalTo(2);
    assertThatThrownBy(() -> table.delete().run())
        .hasMessageContaining("does not say which rows to delete");
    assertThatThrownBy(() -> table.update().set("level", null).run())
        .hasMessageContaining("does not say which rows to update");
    Delete narrow = table.delete().where(some);
    assertThatThrownBy(narrow::all)
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("both a condition and all()");
    Update wide = table.update().set("level", null).all();
    assertThatThrownBy(() -> wide.where(some)).hasMessageContaining("both all() and a condition");
    assertThatThrownBy(() -> wide.whereRow(row -> true))
        .hasMessageContaining("both all() and a condition");
    assertThatThrownBy(() -> wide.whereSerial(Set.of(1L)))
        .hasMessageContaining("both all() and a condition");
    assertThat(wide.all().run().report().rowsMatched()).isEqualTo(1);
    Row row = table.scan().rows().stream().findFirst().orElseThrow();
    assertThatThrownBy(() -> row.get(4))
        .isInstanceOf(NotFoundException.class)
        .hasMessage("The row has no column at position 4: it has 4 columns, counted from 0.");
    assertThatThrownBy(() -> Row.of(SCHEMA.struct(), 1, null, "a", null).get(-1))
        .isInstanceOf(NotFoundException.class);
  }

  @Test
  void anAppendIsUsedOnce() {
    Append append = table.append();
    append.add(1, null, "a", null);
    append.commit();
    assertThatThrownBy(() -> append.add(2, null, "b", null))
        .isInstanceOf(EndedException.class)
        .hasMessageContaining("This append to t.x has ended");
    assertThatThrownBy(append::commit).isInstanceOf(EndedException.class);
    append.close();
    assertThat(table.scan().count()).isEqualTo(1);
  }

  @Test
  void anAppendOfNothingIsAVersionWithoutFiles() {
    try (Append append = table.append()) {
      append.commit("a heartbeat");
    }
    assertThat(table.now().version()).isEqualTo(1);
    assertThat(table.now().files()).isEmpty();
  }

  @Test
  void filesRollAtTheirSizeWhileRowsStream() {
    Table small =
        lake.createTable(
            "t.small",
            Schema.of(Field.of("n", Types.BIGINT).notNull(), Field.of("t", Types.text())),
            org.ysteron.option.TableSettings.DEFAULTS
                .with("file.bytes", 60_000)
                .with("group.bytes", 20_000));
    try (Append append = small.append()) {
      java.util.Random random = new java.util.Random(1);
      for (long n = 0; n < 40_000; n++) {
        append.add(n, Long.toHexString(random.nextLong()));
      }
      append.commit();
    }
    assertThat(small.now().entries())
        .hasSizeGreaterThan(4)
        .allMatch(file -> file.size() < 400_000)
        .extracting(file -> file.numbers().firstSerial())
        .isSorted()
        .startsWith(0L);
    assertThat(small.scan().count()).isEqualTo(40_000);
    try (Append append = small.append()) {
      for (long n = 0; n < 40_000; n++) {
        append.add(n, "x");
      }
    }
    assertThat(store.list("data/" + small.id(), "", 100)).hasSize(small.now().files().size());
  }
}
