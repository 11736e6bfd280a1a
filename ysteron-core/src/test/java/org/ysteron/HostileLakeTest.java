package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import com.sun.management.OperatingSystemMXBean;
import java.lang.management.ManagementFactory;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.function.Function;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.file.Trust;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.proof.CheckDepth;
import org.ysteron.store.MemoryStore;
import org.ysteron.store.ObjectStore;

/**
 * A lake that somebody has written over: whatever its bytes are, and even when all hashes are right
 * for them, each question is answered, or refused by one of the library's own exceptions, soon and
 * without taking the memory.
 *
 * <p>{@code -Dysteron.mutations=1000000} and a heap of 256 MiB for the long run; {@code
 * -Dysteron.first} is the first seed.
 */
class HostileLakeTest {
  private static final int MUTATIONS = Integer.getInteger("ysteron.mutations", 300);
  private static final long FIRST = Long.getLong("ysteron.first", 1);
  private static final long MOST_NANOS = 10_000_000_000L;
  private static final int WIDE = 1500;
  private static final Instant NOW = Instant.parse("2026-03-01T00:00:00Z");

  private static final OperatingSystemMXBean PROCESS =
      ManagementFactory.getPlatformMXBean(OperatingSystemMXBean.class);

  private static final long[] NUMBERS = {
    0, 1, 0x7f, 0x80, 0xff, 0xffff, 0x7fffffffL, 0x80000000L, 0xffffffffL, Long.MAX_VALUE, -1
  };

  private final Map<String, byte[]> objects = new TreeMap<>();

  private static Lake open(ObjectStore store) {
    return Lake.open(
        store, LakeOptions.DEFAULTS.clock(Clock.fixed(NOW, ZoneOffset.UTC)).threads(0));
  }

  /** A lake of all that there is: masks, serials, layouts, older schemas, writers, page objects. */
  private static MemoryStore lake() {
    MemoryStore store = new MemoryStore();
    Clock clock = Clock.fixed(NOW, ZoneOffset.UTC);
    try (Lake lake = Lake.create(store, LakeOptions.DEFAULTS.clock(clock).threads(0))) {
      Table table = lake.createTable("t.x", RandomRows.everyType());
      RandomRows random = new RandomRows(7);
      for (int commit = 0; commit < 3; commit++) {
        try (Append append = table.append()) {
          for (int i = 0; i < 200; i++) {
            append.add(random.row(table.schema(), 200 * commit + i));
          }
          append.commit();
        }
      }
      table.delete().where(column("id").between(10, 60)).style(ChangeStyle.MASK).run();
      table
          .update()
          .where(column("id").between(250, 300))
          .set("an_integer", 5)
          .style(ChangeStyle.MASK)
          .run();
      table.alter().layout(LayoutPlan.none().rule("hash id into 3")).run();
      table.rewrite().where(column("id").lessThan(200)).run();
      table
          .alter()
          .add(Field.of("more", Types.INTEGER).withDefault(Computed.later(7)))
          .check("sane", column("id").atLeast(0))
          .run();
      table.openWriter("w").append(0, rows -> rows.addRow(random(table, random)));
      Table wide = lake.createTable("t.wide", wide(WIDE));
      try (Append append = wide.append()) {
        append.add(new Object[WIDE]);
        append.commit();
      }
      wide.alter().add(Field.of("another", Types.INTEGER)).run();
      lake.createTable("t.gone", Schema.of(Field.of("a", Types.INTEGER)));
      lake.dropTable("t.gone");
    }
    return store;
  }

  private static org.ysteron.data.Row random(Table table, RandomRows random) {
    return org.ysteron.data.Row.of(table.schema().struct(), random.row(table.schema(), 1000));
  }

  private static Schema wide(int columns) {
    List<Field> fields = new ArrayList<>();
    for (int c = 0; c < columns; c++) {
      fields.add(Field.of("column " + c, Types.text()).withComment("about " + c + " ".repeat(150)));
    }
    return Schema.of(fields);
  }

  /** Answers by a lake. */
  private static final List<Function<Lake, String>> QUESTIONS =
      List.of(
          lake -> rows(lake.table("t.x").scan()),
          lake -> "" + lake.table("t.x").scan().where(column("id").equalTo(255)).count(),
          lake -> rows(lake.table("t.x").at(2).scan()),
          lake ->
              "" + lake.table("t.x").now().entries().stream().map(e -> e.trackedRanges()).toList(),
          lake -> "" + lake.table("t.x").scan().where(column("a_text").lessThan("k")).explain(),
          lake -> "" + lake.table("t.x").history(20),
          lake -> rows(lake.table("t.wide").scan()),
          lake ->
              "" + lake.tables().stream().map(t -> lake.table(t.name()).now().record()).toList(),
          lake -> "" + lake.commits(20).stream().map(lake::labels).toList(),
          lake ->
              ""
                  + lake.at(NOW).tables().stream()
                      .map(t -> lake.at(NOW).table(t.name()).schema())
                      .toList(),
          lake ->
              ""
                  + lake.table("t.x")
                      .delete()
                      .where(column("id").equalTo(255))
                      .run()
                      .report()
                      .rowsDeleted(),
          lake ->
              "" + lake.table("t.x").alter().rename("more", "less").run().committed().isPresent(),
          lake -> "" + lake.table("t.x").openWriter("w").lastApplied(),
          lake -> "" + lake.droppedTables(),
          HostileLakeTest::checked,
          lake -> found(lake.mend().dryRun().commits().size()),
          lake -> found(lake.mend().run().commits().size()),
          lake ->
              found(
                  lake.table("t.x")
                      .erase(column("id").equalTo(255))
                      .includingBookmarks()
                      .run()
                      .rows()));

  private static String rows(Scan scan) {
    StringBuilder text = new StringBuilder();
    scan.rows().forEach(text::append);
    return text.toString();
  }

  /** What is mended or erased in a damaged lake depends on the damage. */
  private static String found(long count) {
    assertThat(count).isNotNegative();
    return "";
  }

  /** What a check does not find is not there. */
  private static String checked(Lake lake) {
    boolean isWhole = lake.check().depth(CheckDepth.ROWS).run().isWhole();
    return isWhole ? QUESTIONS.get(0).apply(lake) + QUESTIONS.get(6).apply(lake) : "";
  }

  /** Changes an object, in one place or a few. */
  private static byte[] mutated(byte[] content, Random random) {
    byte[] bytes = content.clone();
    for (int times = 1 + random.nextInt(3); times > 0 && bytes.length > 0; times--) {
      int at = random.nextInt(bytes.length);
      switch (random.nextInt(8)) {
        case 0, 1 -> bytes[at] ^= (byte) (1 << random.nextInt(8));
        case 2 -> bytes[at] = (byte) random.nextInt(256);
        case 3 -> {
          long number = NUMBERS[random.nextInt(NUMBERS.length)];
          for (int i = 0; i < 1 + random.nextInt(8) && at + i < bytes.length; i++) {
            bytes[at + i] = (byte) (number >>> (8 * i));
          }
        }
        case 4 ->
            Arrays.fill(bytes, at, Math.min(bytes.length, at + random.nextInt(10)), (byte) -1);
        case 5 -> {
          int from = random.nextInt(bytes.length);
          int length = Math.min(random.nextInt(64), bytes.length - Math.max(at, from));
          System.arraycopy(bytes, from, bytes, at, length);
        }
        case 6 -> {
          if (random.nextInt(8) == 0) {
            bytes = Arrays.copyOf(bytes, at);
          }
        }
        default -> bytes[at] = (byte) ('0' + random.nextInt(10));
      }
    }
    return bytes;
  }

  /** Puts the hash of an entry's lines right. */
  private static byte[] right(byte[] entry) {
    String text = new String(entry, StandardCharsets.ISO_8859_1);
    int line = text.indexOf("\n{\"head\":\"") + 1;
    if (line == 0 || line + 10 + 64 > entry.length) {
      return entry;
    }
    byte[] hash = Sha256.of(Arrays.copyOf(entry, line));
    byte[] digits = HexFormat.of().formatHex(hash).getBytes(StandardCharsets.US_ASCII);
    byte[] fixed = entry.clone();
    System.arraycopy(digits, 0, fixed, line + 9, digits.length);
    return fixed;
  }

  @Test
  void whateverIsWrittenOverALakeIsAnsweredByItsOwnExceptions() {
    objects.putAll(StoreContents.of(lake()));
    List<String> names = objects.keySet().stream().filter(n -> objects.get(n).length > 0).toList();
    assertThat(names).anyMatch(n -> n.startsWith("pages/")).anyMatch(n -> n.startsWith("data/"));
    List<String> answers = new ArrayList<>(); // what is asked first takes longest, too
    for (Function<Lake, String> question : QUESTIONS) {
      try (Lake lake = open(without(""))) {
        answers.add(question.apply(lake));
      }
    }
    int refused = 0;
    for (long seed = FIRST; seed < FIRST + MUTATIONS; seed++) {
      refused += isRefused(seed, names, answers) ? 1 : 0;
    }
    assertThat(refused).as("refused of %d", MUTATIONS).isBetween(MUTATIONS / 20, MUTATIONS - 1);
  }

  /** What was done may not be done twice. */
  private static void askAgain(Function<Lake, String> question, Lake lake) {
    try {
      assertThat(question.apply(lake)).isNotNull();
    } catch (YsteronException e) {
      assertThat(e.getMessage()).isNotBlank();
    }
  }

  /** A copy of the lake but for one object. */
  private MemoryStore without(String name) {
    MemoryStore store = new MemoryStore();
    objects.forEach(
        (other, bytes) -> {
          if (!other.equals(name)) {
            store.createIfAbsent(other, bytes);
          }
        });
    return store;
  }

  @SuppressWarnings("try") // trust is there while it is open
  private boolean isRefused(long seed, List<String> names, List<String> answers) {
    Random random = new Random(seed * 0x9e3779b97f4a7c15L);
    String name = names.get(random.nextInt(names.size()));
    byte[] bytes = mutated(objects.get(name), random);
    boolean trusted = random.nextBoolean();
    if (trusted && name.startsWith("ledger/")) {
      bytes = right(bytes);
    }
    MemoryStore store = without(name);
    store.createIfAbsent(name, bytes);
    int asked = random.nextInt(QUESTIONS.size());
    Function<Lake, String> question = QUESTIONS.get(asked);
    long start = System.nanoTime();
    long used = PROCESS.getProcessCpuTime();
    try (Trust trust = trusted ? new Trust() : null;
        Lake lake = open(store)) {
      String answer = question.apply(lake);
      if (!trusted && !answer.isEmpty()) {
        assertThat(answer)
            .as("seed %d, %s, question %d", seed, name, asked)
            .isEqualTo(answers.get(asked));
      }
      askAgain(question, lake);
      return false;
    } catch (YsteronException e) {
      assertThat(e.getMessage()).as("seed %d", seed).isNotBlank().hasSizeLessThan(4000);
      return true;
    } catch (RuntimeException | Error e) {
      throw new AssertionError(
          "seed %d, %s, question %d, %s"
              .formatted(seed, name, asked, trusted ? "hashes right" : "as it is"),
          e);
    } finally {
      // On a busy machine time goes by without being used.
      long nanos = Math.min(System.nanoTime() - start, PROCESS.getProcessCpuTime() - used);
      assertThat(nanos).as("time of seed %d", seed).isLessThan(MOST_NANOS);
    }
  }
}
