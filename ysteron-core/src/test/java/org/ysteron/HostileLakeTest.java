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
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.file.Trust;
import org.ysteron.option.ChangeStyle;
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
  private static final int MUTATIONS = Integer.getInteger("ysteron.mutations", 1500);
  private static final long FIRST = Long.getLong("ysteron.first", 1);
  private static final long MOST_NANOS = 3_000_000_000L;
  private static final int WIDE = 1500;
  private static final Instant NOW = Instant.parse("2026-03-01T00:00:00Z");

  private static final OperatingSystemMXBean PROCESS =
      ManagementFactory.getPlatformMXBean(OperatingSystemMXBean.class);

  private static final long[] NUMBERS = {
    0, 1, 0x7f, 0x80, 0xff, 0xffff, 0x7fffffffL, 0x80000000L, 0xffffffffL, Long.MAX_VALUE, -1
  };

  private final Map<String, byte[]> objects = new TreeMap<>();

  private static Lake open(ObjectStore store) {
    return Lake.open(store, Clock.fixed(NOW, ZoneOffset.UTC), 0);
  }

  /** A lake of all that there is: masks, serials, layouts, older schemas, writers, page objects. */
  private static MemoryStore lake() {
    MemoryStore store = new MemoryStore();
    Clock clock = Clock.fixed(NOW, ZoneOffset.UTC);
    try (Lake lake = Lake.create(store, clock, 0)) {
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
          .add(Field.of("more", Types.INTEGER).withDefault(7))
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

  private static final List<Consumer<Lake>> QUESTIONS =
      List.of(
          lake -> lake.table("t.x").scan().rows().forEach(row -> row.values()),
          lake -> lake.table("t.x").scan().where(column("id").equalTo(255)).count(),
          lake -> lake.table("t.x").at(2).scan().rows().forEach(row -> row.values()),
          lake -> lake.table("t.x").now().entries().forEach(file -> file.trackedRanges()),
          lake -> lake.table("t.x").scan().where(column("a_text").lessThan("k")).explain(),
          lake -> lake.table("t.x").history(20).forEach(record -> record.totals()),
          lake -> lake.table("t.wide").scan().rows().forEach(row -> row.get(0)),
          lake -> lake.tables().forEach(listing -> lake.table(listing.name()).now().record()),
          lake -> lake.commits(20).forEach(commit -> lake.labels(commit)),
          lake -> lake.at(NOW).tables().forEach(table -> lake.at(NOW).table(table.name()).schema()),
          lake -> lake.table("t.x").delete().where(column("id").equalTo(255)).run(),
          lake -> lake.table("t.x").alter().rename("more", "less").run(),
          lake -> lake.table("t.x").openWriter("w").lastApplied(),
          lake -> assertThat(lake.droppedTables().toString()).isNotEmpty(),
          lake -> assertThat(lake.check().to(CheckDepth.ROWS).run().toString()).isNotEmpty(),
          lake -> assertThat(lake.mend().rehearse().toString()).isNotEmpty(),
          lake -> assertThat(lake.mend().run().toString()).isNotEmpty(),
          lake ->
              assertThat(
                      lake.table("t.x")
                          .erase(column("id").equalTo(255))
                          .includingBookmarks()
                          .run()
                          .toString())
                  .isNotEmpty());

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
    MemoryStore sound = lake();
    for (Consumer<Lake> question : QUESTIONS) {
      try (Lake lake = open(sound)) {
        question.accept(lake); // what is asked first takes longest
      }
    }
    int refused = 0;
    for (long seed = FIRST; seed < FIRST + MUTATIONS; seed++) {
      refused += isRefused(seed, names) ? 1 : 0;
    }
    assertThat(refused).as("refused of %d", MUTATIONS).isBetween(MUTATIONS / 10, MUTATIONS - 1);
  }

  @SuppressWarnings("try") // trust is there while it is open
  private boolean isRefused(long seed, List<String> names) {
    Random random = new Random(seed * 0x9e3779b97f4a7c15L);
    String name = names.get(random.nextInt(names.size()));
    byte[] bytes = mutated(objects.get(name), random);
    boolean trusted = random.nextBoolean();
    if (trusted && name.startsWith("ledger/")) {
      bytes = right(bytes);
    }
    MemoryStore store = new MemoryStore();
    for (Map.Entry<String, byte[]> object : objects.entrySet()) {
      store.createIfAbsent(
          object.getKey(), object.getKey().equals(name) ? bytes : object.getValue());
    }
    Consumer<Lake> question = QUESTIONS.get(random.nextInt(QUESTIONS.size()));
    long start = System.nanoTime();
    long used = PROCESS.getProcessCpuTime();
    try (Trust trust = trusted ? new Trust() : null;
        Lake lake = open(store)) {
      question.accept(lake);
      question.accept(lake);
      return false;
    } catch (YsteronException e) {
      assertThat(e.getMessage()).as("seed %d", seed).isNotBlank().hasSizeLessThan(4000);
      return true;
    } catch (RuntimeException | Error e) {
      throw new AssertionError(
          "seed %d, %s, question %d, %s"
              .formatted(
                  seed, name, QUESTIONS.indexOf(question), trusted ? "hashes right" : "as it is"),
          e);
    } finally {
      // On a busy machine time goes by without being used.
      long nanos = Math.min(System.nanoTime() - start, PROCESS.getProcessCpuTime() - used);
      assertThat(nanos).as("time of seed %d", seed).isLessThan(MOST_NANOS);
    }
  }
}
