package org.ysteron;

import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Column;
import org.ysteron.expr.Condition;
import org.ysteron.option.ChangeStyle;
import org.ysteron.report.ChangeReport;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.StagedChange;

/** The operations of a simulation, each on a real table and on a model of it. */
final class SimulatedWork {
  static final Schema SCHEMA =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)).withKey("k");
  static final int KEYS = 12;

  private SimulatedWork() {}

  /** A row of the model: a number for life, and its value. */
  record Held(long id, long v) {}

  /** The tables of a lake by name, their rows by key. */
  static final class State {
    final Map<String, NavigableMap<Integer, Held>> tables = new TreeMap<>();

    /** By key, the values of a table in which rows may share one. */
    NavigableMap<Integer, List<Long>> shared = new TreeMap<>();

    /** By table, the rows that are really there at the same commit. */
    Map<String, Map<Integer, Long>> actual = Map.of();

    /** Whether a single statement is done, and the states from its start on; else none. */
    List<State> past = List.of();

    /** By table, its rows at each version so far. */
    Map<String, Map<Long, NavigableMap<Integer, Held>>> versions = Map.of();

    /** By table, what keys are below, for checks say so. */
    final Map<String, Integer> bounds = new TreeMap<>();

    State copy() {
      State copy = new State();
      tables.forEach((name, rows) -> copy.tables.put(name, new TreeMap<>(rows)));
      copy.shared = SimulatedKeys.copy(shared);
      copy.versions = versions;
      return copy;
    }

    NavigableMap<Integer, Held> rows(String table) {
      return tables.get(table);
    }
  }

  /** Numbers for rows of the model. */
  static final class Ids {
    private long last;

    long next() {
      return ++last;
    }
  }

  /** A real table, alone or in a transaction; what adds rows tells those that are refused. */
  record Target(
      Supplier<Scan> scan,
      Supplier<Delete> delete,
      Supplier<Update> update,
      Function<MergeSource, Merge> merge,
      Supplier<Rewrite> rewrite,
      Supplier<Alter> alter,
      Supplier<Rewind> rewind,
      LongSupplier version,
      Optional<Remote> remote,
      Consumer<Function<LakeView, StagedChange>> staging,
      Consumer<Consumer<TransactionTable.LocatedRows>> located,
      Adder add) {}

  /** A lake and its store, for what is prepared with the store alone. */
  record Remote(LakeHandle lake, ObjectStore store) {}

  /** Adds rows; of those that do not fit any more at the commit it may leave only those out. */
  interface Adder {
    void add(List<Row> rows, boolean skipsRejected, Consumer<Row> refused);
  }

  /** Where operations find tables. */
  interface Tables {
    Target table(String name);
  }

  /** An operation; both sides say in words what they saw. */
  interface Op {
    String run(Tables tables);

    String apply(State state, Ids ids);

    default boolean isStatement() {
      return true;
    }
  }

  static Op random(Random random, int fresh) {
    String table = random.nextInt(3) == 0 ? "t.b" : "t.a";
    int low = random.nextInt(KEYS);
    int high = low + random.nextInt(4);
    ChangeStyle style =
        List.of(ChangeStyle.MASK, ChangeStyle.REWRITE, ChangeStyle.BY_SHARE).get(random.nextInt(3));
    return switch (random.nextInt(26)) {
      case 25 -> new SimulatedForms.Staged(table, low, high, random.nextBoolean());
      case 24 -> new SimulatedForms.FromElsewhere(table, low, high, fresh, new boolean[1]);
      case 23 -> new SimulatedForms.Back(table, 1 + random.nextInt(4), new long[1]);
      case 0, 1 ->
          new Append(
              table,
              List.of(fresh, fresh + 1, fresh + 2),
              random.nextBoolean(),
              random.nextInt(4),
              random.nextInt(3) > 0,
              new TreeSet<>());
      case 17, 18 -> new Contested(table, distinct(random), 1000L * fresh);
      case 19 -> new GrowingUpsert(table, distinct(random), random.nextInt(50), random.nextInt(8));
      case 20, 21 -> SimulatedKeys.random(random, fresh);
      case 14 -> new Refused(table, low, high);
      case 15 -> new SelfMerge(table, low, high);
      case 16 -> new CopyRows("t.b", "t.a", low, high);
      case 2 -> new DeleteRange(table, low, high, style);
      case 3, 4 -> new Increase(table, low, high, style, random.nextInt(4) == 0);
      case 5, 6 -> new Upsert(table, distinct(random), random.nextInt(50), style, false);
      case 7 -> new Upsert(table, distinct(random), random.nextInt(50), style, true);
      case 10, 11 -> new SimulatedForms.Pack(table, random.nextInt(1000), 1 + random.nextInt(4));
      case 12 -> new SimulatedForms.Restore(table, low, low + 5);
      case 13 -> new SimulatedForms.Change(table, fresh, SimulatedEvolution.plan(random));
      case 8 -> new CopySum("t.a", "t.b", low, high, random.nextInt(KEYS));
      default -> new Withdraw(low, random.nextInt(2) == 0 ? "t.a" : "t.b");
    };
  }

  private static List<Integer> distinct(Random random) {
    return random.ints(3, 0, KEYS).distinct().boxed().toList();
  }

  /** Some keys, of every other range by an expression. */
  static Condition between(int low, int high) {
    if ((low + high) % 2 == 0) {
      return column("k").between(low, high);
    }
    return column("k").times(2).minus(1).atLeast(2 * low - 1).and(column("k").atMost(high));
  }

  /** Appends rows under keys that nobody else uses, and goes on after those that are refused. */
  record Append(
      String table,
      List<Integer> keys,
      boolean grows,
      int bad,
      boolean skipsRejected,
      Set<Integer> refused)
      implements Op {
    private static final Schema WRONG =
        Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.text()));

    @Override
    public String run(Tables tables) {
      List<Row> rows = new ArrayList<>();
      for (int k : keys) {
        rows.add(grows ? SimulatedEvolution.growing(k) : Row.of(SCHEMA.struct(), k, (long) k));
      }
      if (bad < rows.size()) {
        rows.add(bad, Row.of(WRONG.struct(), -1, "no number"));
      }
      refused.clear();
      // Told one by one: the commit behind them may end in an exception, and be made all the same.
      tables.table(table).add.add(rows, skipsRejected, row -> refused.add((Integer) row.get("k")));
      if (bad < keys.size() && !refused.remove(-1)) {
        throw new AssertionError("a text was taken for a number");
      }
      return "";
    }

    @Override
    public String apply(State state, Ids ids) {
      for (int k : keys) {
        boolean late = skipsRejected && k >= state.bounds.getOrDefault(table, Integer.MAX_VALUE);
        if (!refused.contains(k) && !late) {
          state.rows(table).put(k, new Held(ids.next(), k));
        }
      }
      return "";
    }
  }

  /**
   * Appends rows under keys that others use, too; each with a value of its own, so that it can be
   * told which of them were left out.
   */
  record Contested(String table, List<Integer> keys, long first) implements Op {
    @Override
    public String run(Tables tables) {
      List<Row> rows = new ArrayList<>();
      for (int i = 0; i < keys.size(); i++) {
        rows.add(Row.of(SCHEMA.struct(), keys.get(i), first + i));
      }
      tables.table(table).add.add(rows, true, row -> {});
      return "";
    }

    @Override
    public String apply(State state, Ids ids) {
      Map<Integer, Held> rows = state.rows(table);
      Map<Integer, Long> actual = state.actual.getOrDefault(table, Map.of());
      for (int i = 0; i < keys.size(); i++) {
        int k = keys.get(i);
        boolean alone = !state.past.isEmpty();
        boolean there = !alone || actual.getOrDefault(k, -1L) == first + i;
        boolean taken = rows.containsKey(k);
        boolean wasTaken = state.past.stream().anyMatch(then -> then.rows(table).containsKey(k));
        if (there ? taken : !taken && !wasTaken) {
          throw new AssertionError(
              "row %d of %s is %s: %s, after it %s"
                  .formatted(i, this, there ? "there" : "left out", rows, actual));
        }
        if (there) {
          rows.put(k, new Held(ids.next(), first + i));
        }
      }
      return "";
    }
  }

  /** Statements that cannot be done, after which everything is as it was. */
  record Refused(String table, int low, int high) implements Op {
    @Override
    public String run(Tables tables) {
      Target target = tables.table(table);
      refuse(() -> target.update.get().where(between(low, high)).set("v", "no number").run());
      refuse(() -> target.update.get().where(column("none").isNull()).set("v", 1L).run());
      refuse(
          () ->
              target
                  .merge
                  .apply(
                      MergeSource.values(
                          List.of("k", "v"),
                          to -> {
                            to.add(new Object[] {low, 1L});
                            to.add(new Object[] {low, 2L});
                          }))
                  .matched(Merge.takeAll())
                  .unmatched(Merge.takeAll())
                  .run());
      refuse(() -> target.alter.get().add(Field.of("k", Types.INTEGER)).run());
      return "";
    }

    private static void refuse(Runnable statement) {
      try {
        statement.run();
      } catch (KeyExistsException e) {
        throw e; // of rows that were added before
      } catch (InvalidInputException | NotFoundException e) {
        return;
      }
      throw new AssertionError("a statement that cannot be done was");
    }

    @Override
    public String apply(State state, Ids ids) {
      return "";
    }
  }

  /** Merges a table's own rows into it, with their values one higher. */
  record SelfMerge(String table, int low, int high) implements Op {
    @Override
    public String run(Tables tables) {
      Target target = tables.table(table);
      Scan source = target.scan.get().where(between(low, high));
      return "merged "
          + target
              .merge
              .apply(MergeSource.scan(source))
              .matched(
                  Column.ofSource("v").isNotNull(),
                  Merge.set(Map.of("v", Column.ofSource("v").plus(1))))
              .run()
              .report()
              .rowsMatched();
    }

    @Override
    public String apply(State state, Ids ids) {
      var range = state.rows(table).subMap(low, high + 1);
      range.replaceAll((k, held) -> new Held(held.id, held.v + 1));
      return "merged " + range.size();
    }
  }

  /** Merges rows of one table into another. */
  record CopyRows(String from, String to, int low, int high) implements Op {
    @Override
    public String run(Tables tables) {
      Scan source = tables.table(from).scan.get().where(between(low, high)).columns("k", "v");
      return "merged "
          + tables
              .table(to)
              .merge
              .apply(MergeSource.scan(source))
              .matched(Merge.takeAll())
              .unmatched(Merge.takeAll())
              .run()
              .report()
              .rowsMatched();
    }

    @Override
    public String apply(State state, Ids ids) {
      var rows = state.rows(to);
      int matched = 0;
      for (var given : state.rows(from).subMap(low, high + 1).entrySet()) {
        Held held = rows.get(given.getKey());
        matched += held == null ? 0 : 1;
        rows.put(given.getKey(), new Held(held == null ? ids.next() : held.id, given.getValue().v));
      }
      return "merged " + matched;
    }
  }

  /** Deletes by key. */
  record DeleteRange(String table, int low, int high, ChangeStyle style) implements Op {
    @Override
    public String run(Tables tables) {
      ChangeReport report =
          tables.table(table).delete.get().where(between(low, high)).style(style).run().report();
      return "deleted " + report.rowsDeleted();
    }

    @Override
    public String apply(State state, Ids ids) {
      var range = state.rows(table).subMap(low, high + 1);
      int count = range.size();
      range.clear();
      return "deleted " + count;
    }
  }

  /** Adds one to values, found by key, or by looking at every row. */
  record Increase(String table, int low, int high, ChangeStyle style, boolean byTest)
      implements Op {
    @Override
    public String run(Tables tables) {
      Update update = tables.table(table).update.get();
      if (byTest) {
        update =
            update.whereRow(row -> (Integer) row.get("k") >= low && (Integer) row.get("k") <= high);
      } else {
        update = update.where(between(low, high));
      }
      return "increased "
          + (low % 2 == 0
                  ? update.set("v", column("v").plus(1))
                  : update.setBy("v", row -> (Long) row.get("v") + 1))
              .style(style)
              .run()
              .report()
              .rowsUpdated();
    }

    @Override
    public String apply(State state, Ids ids) {
      var range = state.rows(table).subMap(low, high + 1);
      range.replaceAll((k, held) -> new Held(held.id, held.v + 1));
      return "increased " + range.size();
    }
  }

  /** Inserts or updates by key; some of the matched are deleted instead. */
  record Upsert(String table, List<Integer> keys, long value, ChangeStyle style, boolean deletesOdd)
      implements Op {
    @Override
    public String run(Tables tables) {
      Merge merge =
          tables
              .table(table)
              .merge
              .apply(
                  MergeSource.values(
                      List.of("k", "v"), to -> keys.forEach(k -> to.add(new Object[] {k, value}))));
      if (deletesOdd) {
        merge = merge.matched((row, given) -> (Long) row.get("v") % 2 == 1, Merge.delete());
      }
      merge = merge.matched(Merge.takeAll()).unmatched(Merge.takeAll());
      return "merged " + merge.style(style).run().report().rowsMatched();
    }

    @Override
    public String apply(State state, Ids ids) {
      var rows = state.rows(table);
      int matched = 0;
      for (int k : keys) {
        Held held = rows.get(k);
        matched += held == null ? 0 : 1;
        if (held != null && deletesOdd && held.v % 2 == 1) {
          rows.remove(k);
        } else {
          rows.put(k, new Held(held == null ? ids.next() : held.id, value));
        }
      }
      return "merged " + matched;
    }
  }

  /**
   * Inserts or updates by key from a source whose rows have other columns than the table, and not
   * all of them the same.
   *
   * @param which whose bits say which rows have more columns
   */
  record GrowingUpsert(String table, List<Integer> keys, long value, int which) implements Op {
    @Override
    public String run(Tables tables) {
      Merge merge = tables.table(table).merge.apply(MergeSource.named(this::feed));
      merge = merge.matched(Merge.takeAll()).unmatched(Merge.takeAll());
      return "merged " + merge.run().report().rowsMatched();
    }

    private void feed(RowSink to) {
      for (int i = 0; i < keys.size(); i++) {
        int k = keys.get(i);
        boolean more = (which >> i) % 2 == 1;
        if (i == 1 && more) {
          String text = String.valueOf(k);
          String[] values = {text, String.valueOf(value), text};
          to.addText(new TextRow(List.of("k", "v", "g"), values));
        } else {
          to.addObject(more ? Map.of("g", k, "k", k, "v", value) : Map.of("v", value, "k", k));
        }
      }
    }

    @Override
    public String apply(State state, Ids ids) {
      return new Upsert(table, keys, value, ChangeStyle.MASK, false).apply(state, ids);
    }
  }

  private static long sum(Scan scan) {
    long sum = 0;
    try (Results<Row> rows = scan.rows()) {
      for (Row row : rows) {
        sum += (Long) row.get("v");
      }
    }
    return sum;
  }

  /** Reads some rows of one table and writes their sum into another. */
  record CopySum(String from, String to, int low, int high, int key) implements Op {
    @Override
    public String run(Tables tables) {
      long sum = sum(tables.table(from).scan.get().where(between(low, high)));
      tables
          .table(to)
          .merge
          .apply(
              MergeSource.values(
                  List.of("k", "v"), rows -> rows.add(new Object[] {key, sum % 1000})))
          .matched(Merge.takeAll())
          .unmatched(Merge.takeAll())
          .run();
      return "sum " + sum;
    }

    @Override
    public String apply(State state, Ids ids) {
      long sum = state.rows(from).subMap(low, high + 1).values().stream().mapToLong(Held::v).sum();
      Held held = state.rows(to).get(key);
      state.rows(to).put(key, new Held(held == null ? ids.next() : held.id, sum % 1000));
      return "sum " + sum;
    }

    @Override
    public boolean isStatement() {
      return false;
    }
  }

  /** Takes one from a table, as long as both tables together have enough: the write skew. */
  record Withdraw(int key, String table) implements Op {
    @Override
    public String run(Tables tables) {
      long sum = 0;
      for (String name : List.of("t.a", "t.b")) {
        sum += sum(tables.table(name).scan.get().where(column("k").equalTo(key)));
      }
      if (sum > 0) {
        tables
            .table(table)
            .update
            .get()
            .where(column("k").equalTo(key))
            .set("v", column("v").minus(1).orElse(0L))
            .run();
      }
      return "had " + sum;
    }

    @Override
    public String apply(State state, Ids ids) {
      List<Held> found = new ArrayList<>();
      for (String name : List.of("t.a", "t.b")) {
        Held held = state.rows(name).get(key);
        if (held != null) {
          found.add(held);
        }
      }
      long sum = found.stream().mapToLong(Held::v).sum();
      if (sum > 0) {
        state.rows(table).computeIfPresent(key, (k, held) -> new Held(held.id, held.v - 1));
      }
      return "had " + sum;
    }

    @Override
    public boolean isStatement() {
      return false;
    }
  }
}
