package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.DamagedException;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.option.Retention;

/** What a program wants to know of an error it reads from fields. */
class ErrorFieldsTest {
  private static final Path SOURCES = Path.of("src/main/java/org/ysteron/error");
  private static final String NAME = "tide.readings";

  @TempDir Path directory;

  private Lake lake;
  private Table table;

  @BeforeEach
  void makeLake() {
    lake = Lake.create(directory.resolve("lake"));
    table =
        lake.createTable(
            NAME, Schema.of(Field.of("id", Types.BIGINT).notNull(), Field.of("n", Types.INTEGER)));
    append(1);
    append(2);
  }

  @AfterEach
  void close() {
    lake.close();
  }

  private void append(long id) {
    try (Append append = table.append()) {
      append.add(id, 1);
      append.commit();
    }
  }

  private static <T extends YsteronException> T thrown(Class<T> type, ThrowingCallable call) {
    T error = catchThrowableOfType(type, call);
    assertThat(error).isNotNull();
    return error;
  }

  private static void assertMissing(
      NotFoundException.Kind kind, String name, ThrowingCallable call) {
    NotFoundException error = thrown(NotFoundException.class, call);
    assertThat(error.kind()).isEqualTo(kind);
    assertThat(error.name()).isEqualTo(name);
  }

  @Test
  void whatDoesNotExist() {
    assertMissing(NotFoundException.Kind.TABLE, "a.b", () -> lake.table("a.b"));
    assertMissing(NotFoundException.Kind.VERSION, "9", () -> table.at(9));
    assertMissing(NotFoundException.Kind.ENTRY, "99", () -> lake.atEntry(99));
    assertMissing(NotFoundException.Kind.BOOKMARK, "x", () -> lake.dropBookmark("x"));
    assertMissing(NotFoundException.Kind.COLUMN, "m", () -> table.scan().columns("m").schema());
    assertMissing(NotFoundException.Kind.SETTING, "x.y", () -> lake.set("x.y", 1));
    assertMissing(NotFoundException.Kind.CHECK, "c", () -> table.alter().dropCheck("c").run());
    assertMissing(
        NotFoundException.Kind.ERASURE, NAME, () -> table.erase(column("n").isNull()).giveUp());
    Path nowhere = directory.resolve("nowhere");
    assertMissing(
        NotFoundException.Kind.LAKE, nowhere.toString(), () -> Lake.open(nowhere).close());
    Instant early = Instant.parse("2001-01-01T00:00:00Z");
    assertMissing(NotFoundException.Kind.VERSION, early.toString(), () -> table.at(early));
  }

  @Test
  void whatHasExpired() {
    table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
    ExpiredException error = thrown(ExpiredException.class, () -> table.at(1));
    assertThat(error.table()).contains(NAME);
    assertThat(error.version()).hasValue(1);
    assertThat(error.entry()).isEmpty();
  }

  @Test
  void whatIsDamaged() throws IOException {
    Path file;
    try (Stream<Path> files = Files.walk(directory.resolve("lake/data"))) {
      file = files.filter(Files::isRegularFile).findFirst().orElseThrow();
    }
    Files.delete(file);
    DamagedException error = thrown(DamagedException.class, () -> table.scan().rows().toList());
    assertThat(error.objectName()).contains(directory.resolve("lake").relativize(file).toString());
  }

  @Test
  void whatHasEnded() {
    Append append = table.append();
    append.close();
    EndedException error = thrown(EndedException.class, () -> append.add(3L, 3));
    assertThat(error.kind()).isEqualTo(EndedException.Kind.APPEND);
    assertThat(error.table()).contains(NAME);
    Transaction work = lake.begin();
    work.close();
    assertThat(thrown(EndedException.class, () -> work.table(NAME)).kind())
        .isEqualTo(EndedException.Kind.TRANSACTION);
    Transaction open = lake.begin();
    open.table(NAME).delete().all().run();
    lake.close();
    EndedException closed = thrown(EndedException.class, () -> lake.tables());
    assertThat(closed.kind()).isEqualTo(EndedException.Kind.LAKE);
    assertThat(closed)
        .hasMessage("The lake in %s was closed. Open it again.", directory.resolve("lake"));
    assertThat(thrown(EndedException.class, open::commit).kind())
        .isEqualTo(EndedException.Kind.LAKE);
    try (Lake again = Lake.open(directory.resolve("lake"))) {
      assertThat(again.table(NAME).scan().count()).isEqualTo(2);
    }
  }

  @Test
  void whichLakeWasOpened() throws IOException {
    Path place = directory.resolve("lake");
    UUID id = lake.id();
    Files.move(place, directory.resolve("other"));
    Lake.create(place).close();
    WrongLakeException error = thrown(WrongLakeException.class, () -> append(3));
    assertThat(error.location()).isEqualTo(place.toString());
    assertThat(error.lakeId()).isEqualTo(id);
  }

  @Test
  void whichColumnAnArgumentIsWrongFor() {
    assertThat(
            thrown(
                    InvalidInputException.class,
                    () -> table.scan().where(column("n").equalTo("x")).count())
                .columnName())
        .contains("n");
    try (Append append = table.append()) {
      RejectedRowException error = thrown(RejectedRowException.class, () -> append.add(1L, "many"));
      assertThat(error.columnName()).contains("n");
      assertThat(error.row()).isEqualTo(1);
    }
  }

  @Test
  void everyErrorHasFieldsAndTheyAreDocumented() throws Exception {
    try (Stream<Path> files = Files.list(SOURCES)) {
      for (Path file : files.filter(f -> f.toString().endsWith("Exception.java")).toList()) {
        String name = file.getFileName().toString().replace(".java", "");
        Class<?> type = Class.forName("org.ysteron.error." + name);
        if (type != YsteronException.class) {
          assertThat(fields(type)).as(name).isNotEmpty();
        }
        Matcher method =
            Pattern.compile("(?m)(.*)\\n(?:  @Override\\n)?  public [\\w.<>? ]+ \\w+\\(")
                .matcher(Files.readString(file));
        while (method.find()) {
          assertThat(method.group(1)).as(name + method.group()).endsWith("*/");
        }
      }
    }
  }

  /** What a program can ask an error of a class, beside what all exceptions tell. */
  private static List<String> fields(Class<?> type) {
    return Stream.<Class<?>>iterate(type, c -> c != YsteronException.class, Class::getSuperclass)
        .flatMap(c -> Stream.of(c.getDeclaredMethods()))
        .filter(m -> Modifier.isPublic(m.getModifiers()) && !Modifier.isStatic(m.getModifiers()))
        .filter(m -> m.getParameterCount() == 0)
        .map(Method::getName)
        .toList();
  }
}
