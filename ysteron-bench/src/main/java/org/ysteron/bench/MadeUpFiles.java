package org.ysteron.bench;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.UUID;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.option.Isolation;
import org.ysteron.option.TableSettings;

/** Tables of entries of data files that are made up: there is nothing behind them. */
final class MadeUpFiles {
  static final int GAUGES = 57;
  static final long SPAN = 3_600_000_000L;
  static final int AT_ONCE = 10_000;
  private static final CommitNote NOTE = CommitNote.standard();

  private final Random random = new Random(7);
  private final Schema schema = schema();

  /** Makes a table of so many files, in commits of ten thousand. */
  UUID table(LakeCore core, String name, int size) {
    UUID id = UUID.randomUUID();
    core.commit(
        TableEdits.create(id, name, TableForm.of(schema, Layout.NONE), TableSettings.DEFAULTS),
        NOTE);
    for (int from = 0; from < size; from += AT_ONCE) {
      commit(core, id, staged(from, Math.min(size, from + AT_ONCE)));
    }
    return id;
  }

  /** Some files, by their numbers. */
  List<StagedFile> staged(int from, int to) {
    List<StagedFile> staged = new ArrayList<>();
    for (int i = from; i < to; i++) {
      staged.add(staged(i));
    }
    return staged;
  }

  static void commit(LakeCore core, UUID table, List<StagedFile> staged) {
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SNAPSHOT);
    set.table(table, "bench.files").append(staged);
    set.commit(NOTE);
  }

  static Schema schema() {
    List<Field> columns = new ArrayList<>();
    columns.add(Field.of("gauge_id", Types.text()));
    columns.add(Field.of("taken_at", Types.INSTANT));
    for (int i = 0; i < 5; i++) {
      columns.add(Field.of("count" + i, Types.BIGINT));
      columns.add(Field.of("level" + i, Types.decimal(9, 2)));
    }
    columns.add(Field.of("noise", Types.DOUBLE));
    columns.add(Field.of("rounded", Types.DOUBLE));
    columns.add(Field.of("note", Types.text()));
    columns.add(Field.of("nothing", Types.text()));
    return Schema.of(columns);
  }

  static long micros(int number) {
    return Values.micros(Instant.parse("2016-01-01T00:00:00Z")) + number / GAUGES * SPAN;
  }

  /** A file of one gauge and one hour. */
  StagedFile staged(int number) {
    byte[] hash = new byte[32];
    byte[] footerHash = new byte[32];
    random.nextBytes(hash);
    random.nextBytes(footerHash);
    Map<Integer, ColumnRange> ranges = new HashMap<>();
    for (Field field : schema.columns()) {
      ranges.put(field.id(), range(field, number));
    }
    return new StagedFile(
        new UUID(random.nextLong(), random.nextLong()),
        number / 7,
        20_000 + random.nextInt(4000),
        3_600,
        StagedFile.Form.of(0, 0, schema.lastId()),
        1_900 + random.nextInt(60),
        footerHash,
        hash,
        ranges,
        0,
        Optional.empty());
  }

  private ColumnRange range(Field field, int number) {
    String name = field.name();
    if (name.equals("gauge_id")) {
      byte[] id =
          "ORR-%02d".formatted(number % GAUGES).getBytes(java.nio.charset.StandardCharsets.UTF_8);
      return ColumnRange.of(field.type(), 0, id, id);
    }
    if (name.equals("taken_at")) {
      long from = micros(number);
      return ColumnRange.of(field.type(), 0, from, from + SPAN - 1_000_000);
    }
    if (name.equals("nothing")) {
      return ColumnRange.allNull(field.type(), 3_600);
    }
    if (name.equals("note")) {
      byte[] low = new byte[12];
      byte[] high = new byte[12];
      for (int i = 0; i < 12; i++) {
        low[i] = (byte) ('a' + random.nextInt(3));
        high[i] = (byte) ('w' + random.nextInt(3));
      }
      return ColumnRange.of(field.type(), random.nextInt(9), low, high);
    }
    if (name.equals("noise")) {
      double low = random.nextGaussian();
      return ColumnRange.of(
          field.type(), 0, Ordered.ofDouble(low), Ordered.ofDouble(low + random.nextDouble()));
    }
    if (name.equals("rounded")) {
      long low = random.nextInt(1000);
      return ColumnRange.of(
          field.type(), 0, Ordered.ofDouble(low / 10.0), Ordered.ofDouble((low + 300) / 10.0));
    }
    long low = random.nextInt(10_000);
    return ColumnRange.of(field.type(), random.nextInt(3), low, low + random.nextInt(5_000));
  }
}
