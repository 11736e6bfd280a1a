package org.ysteron.sql;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.function.Supplier;

/** Makes random queries on tables that have the columns of {@link RandomTables}. */
final class RandomQuery {
  private static final List<String> COMPARISONS = List.of("=", "<>", "<", "<=", ">", ">=");

  private static final Supplier<String> ELSE = String::new;

  private final Random random;
  private final List<String> tables;
  private final boolean isSimple;
  private int aliases;

  RandomQuery(Random random, List<String> tables) {
    this.random = random;
    this.tables = tables;
    this.isSimple = random.nextInt(3) == 0;
  }

  /** One of the choices; simple queries, which every engine understands, have those before ELSE. */
  @SafeVarargs
  private String simply(Supplier<String>... choices) {
    int simple = 0;
    while (choices[simple] != ELSE) {
      simple++;
    }
    int drawn = random.nextInt(isSimple ? simple : choices.length - 1);
    return choices[drawn < simple ? drawn : drawn + 1].get();
  }

  @SafeVarargs
  private String one(Supplier<String>... choices) {
    return choices[random.nextInt(choices.length)].get();
  }

  private String of(List<String> choices) {
    return choices.get(random.nextInt(choices.size()));
  }

  /** A query whose rows are all told, in any order. */
  String query() {
    return one(
        this::plain,
        this::plain,
        this::grouped,
        this::grouped,
        this::set,
        this::windowed,
        this::windowed,
        this::whole,
        this::recursive);
  }

  /** A statement that changes rows of a table, and may read another. */
  String change() {
    List<String> names = List.of("t0");
    String table = of(tables);
    return one(
        () ->
            "insert into %s (i, t, b) values (%d, %s, %d)"
                .formatted(table, random.nextInt(9), literal(), random.nextInt(9)),
        () ->
            "insert into %s (b, i, t, o) select %s, %s, %s, t0.o from %s t0 where t0.i = %d and %s"
                .formatted(
                    table,
                    exact(names),
                    column(names, "i"),
                    text(names),
                    of(tables),
                    random.nextInt(8),
                    condition(names, 1)),
        () ->
            "update %s as t0 set i = %s, t = %s where %s"
                .formatted(table, exact(names), text(names), condition(names, 0)),
        () -> "update %s as t0 set b = null, o = t0.i > t0.b".formatted(table),
        () ->
            "delete from %s as t0 where %s and %s"
                .formatted(table, condition(names, 0), condition(names, 0)));
  }

  private String from(List<String> names) {
    String first = "t" + aliases++;
    names.add(first);
    StringBuilder from = new StringBuilder(of(tables) + " " + first);
    for (int joins = random.nextInt(3); joins > 0; joins--) {
      String other = "t" + aliases++;
      String kind = of(List.of("join", "left join", "right join", "full join", "join"));
      String left = of(names);
      String key =
          of(isSimple ? List.of("i", "b", "t") : List.of("i", "b", "d", "t", "taken", "ts", "o"));
      String on = "%s.%s = %s.%s".formatted(left, key, other, key);
      boolean more = !kind.startsWith("full") && random.nextInt(3) == 0;
      on += more ? " and %s.i <= %s.i".formatted(left, other) : "";
      from.append(" %s %s %s on %s".formatted(kind, of(tables), other, on));
      names.add(other);
    }
    return from.toString();
  }

  private String where(List<String> names, int depth) {
    return random.nextInt(4) == 0 ? "" : " where " + condition(names, depth);
  }

  private String plain() {
    List<String> names = new ArrayList<>();
    String from = from(names);
    StringBuilder items = new StringBuilder();
    for (int i = 0; i <= random.nextInt(3); i++) {
      items.append(i > 0 ? ", " : "").append(value(names)).append(" as c").append(i);
    }
    String distinct = random.nextInt(4) == 0 ? "distinct " : "";
    return "select " + distinct + items + " from " + from + where(names, 2);
  }

  private String grouped() {
    List<String> names = new ArrayList<>();
    String from = from(names);
    String where = where(names, 2);
    Set<String> keys = new LinkedHashSet<>(); // the planner unites sets that are the same
    for (int k = random.nextInt(3); k > 0; k--) {
      keys.add(value(names));
    }
    List<String> items = new ArrayList<>(keys);
    for (int a = random.nextInt(3) + 1; a > 0; a--) {
      items.add(aggregate(names));
    }
    String by = keys.isEmpty() ? "" : " group by " + groups(keys);
    String having = random.nextInt(4) == 0 ? " having count(*) > " + random.nextInt(3) : "";
    return "select " + String.join(", ", items) + " from " + from + where + by + having;
  }

  private String groups(Set<String> keys) {
    String all = String.join(", ", keys);
    return switch (isSimple ? 2 : random.nextInt(6)) {
      case 0 -> "rollup (" + all + ")";
      case 1 -> "cube (" + all + ")";
      default -> all;
    };
  }

  private String set() {
    String what =
        of(isSimple ? List.of("i, t", "b, o") : List.of("i, t", "d, taken", "b, o", "x, ts"));
    String kind =
        simply(
            () -> "union",
            () -> "union all",
            () -> "intersect",
            () -> "except",
            ELSE,
            () -> "intersect all",
            () -> "except all");
    return "select %s from %s %s select %s from %s"
        .formatted(what, of(tables), kind, what, of(tables));
  }

  private String windowed() {
    String order = "order by i nulls first, b nulls first, t nulls first, d, w, x, taken, ts, o";
    String frame =
        of(
            List.of(
                "",
                " rows between unbounded preceding and current row",
                " rows between 2 preceding and 1 following",
                " rows between current row and unbounded following"));
    String partition = random.nextBoolean() ? "partition by " + of(List.of("o", "t", "taken")) : "";
    String ordered = "over (" + partition + " " + order + frame + ")";
    String ranked = "over (" + partition + " order by i nulls first)";
    String excluding =
        "over (%s order by i nulls first rows between unbounded preceding and unbounded following exclude %s)"
            .formatted(partition, of(List.of("group", "no others")));
    String ranged =
        "over (%s order by %s nulls first range between %s and %s)"
            .formatted(
                partition,
                of(List.of("i", "i desc", "b")),
                of(List.of("1 preceding", "unbounded preceding", "current row", "1 following")),
                of(List.of("2 following", "unbounded following", "3 following")));
    return "select i, t, %s from %s"
        .formatted(
            one(
                () -> "sum(d) " + excluding,
                () -> "count(distinct t) " + excluding,
                () -> "sum(d) " + ranged,
                () -> "count(*) " + ranged,
                () -> "count(distinct t) " + ranged,
                () -> "first_value(b) " + ordered,
                () -> "last_value(b) " + ordered,
                () -> "lag(b, 2) " + ordered.replace(frame, ""),
                () -> "lead(b, 1, -1) " + ordered.replace(frame, ""),
                () -> "sum(d) " + ordered,
                () -> "count(b) " + ordered,
                () -> "min(t) " + ordered,
                () -> "max(w) " + ordered,
                () -> "rank() " + ranked,
                () -> "dense_rank() " + ranked),
            of(tables));
  }

  /** What metadata may tell. */
  private String whole() {
    List<String> items = new ArrayList<>();
    for (int a = random.nextInt(3) + 1; a > 0; a--) {
      String column = of(List.of("i", "b", "d", "w", "t", "x", "taken", "ts", "o"));
      items.add(
          one(
              () -> "count(*)",
              () -> "count(" + column + ")",
              () -> "min(" + column + ")",
              () -> "max(" + column + ")"));
    }
    return "select " + String.join(", ", items) + " from " + of(tables);
  }

  private String recursive() {
    return one(
        () ->
            "with recursive n(k) as (select min(i) from %s union all select k + 1 from n where k < 5) select k, count(t.b) from n left join %s t on t.i = n.k group by k"
                .formatted(of(tables), of(tables)),
        () ->
            "with recursive n(k, s) as (select i, b from %s where i < 2 union select t.b, n.s from n join %s t on t.i = n.k) select * from n"
                .formatted(of(tables), of(tables)));
  }

  private String aggregate(List<String> names) {
    return simply(
        () -> "count(*)",
        () -> "count(" + value(names) + ")",
        () -> "count(distinct " + value(names) + ")",
        () -> "sum(" + exact(names) + ")",
        () -> "min(" + value(names) + ")",
        () -> "max(" + value(names) + ")",
        () -> "sum(distinct " + column(names, "b") + ")",
        () -> "count(*) filter (where " + condition(names, 0) + ")",
        ELSE,
        () -> "cast(var_pop(" + column(names, "i") + ") as decimal(18, 10))",
        () -> "cast(stddev_samp(" + column(names, "b") + ") as decimal(18, 9))",
        () -> "percentile_disc(0.25) within group (order by " + column(names, "b") + ")",
        () -> "percentile_disc(0.7) within group (order by " + column(names, "t") + ")",
        () -> "percentile_cont(0.5) within group (order by " + column(names, "i") + ")");
  }

  private String column(List<String> names, String column) {
    return of(names) + "." + column;
  }

  private String value(List<String> names) {
    return simply(
        () -> exact(names),
        () -> text(names),
        () -> column(names, "o"),
        () -> "case when " + condition(names, 0) + " then " + exact(names) + " end",
        ELSE,
        () -> column(names, "x"),
        () -> column(names, "taken"),
        () -> column(names, "ts"),
        () -> "extract(month from " + column(names, "ts") + ")");
  }

  private String exact(List<String> names) {
    return simply(
        () -> column(names, "i"),
        () -> column(names, "b"),
        () -> column(names, "i") + " + " + random.nextInt(9),
        () -> "coalesce(" + column(names, "i") + ", " + random.nextInt(5) + ")",
        () -> "abs(" + column(names, "i") + ")",
        () -> "char_length(" + text(names) + ")",
        ELSE,
        () -> column(names, "d"),
        () -> column(names, "w"),
        () -> column(names, "d") + " * " + random.nextInt(9),
        () -> column(names, "d") + " - " + column(names, "i"));
  }

  private String text(List<String> names) {
    return simply(
        () -> column(names, "t"),
        () -> column(names, "t") + " || 'z'",
        ELSE,
        () -> "upper(" + column(names, "t") + ")",
        () -> "substring(" + column(names, "t") + " from 1 for 2)");
  }

  private String condition(List<String> names, int depth) {
    if (depth > 0) {
      return one(
          () -> condition(names, depth - 1),
          () -> condition(names, 0) + " and " + condition(names, depth - 1),
          () -> "(" + condition(names, 0) + " or " + condition(names, depth - 1) + ")",
          () -> "not (" + condition(names, depth - 1) + ")",
          () -> subquery(names));
    }
    return simply(
        () -> exact(names) + " " + of(COMPARISONS) + " " + random.nextInt(6),
        () -> exact(names) + " " + of(COMPARISONS) + " " + exact(names),
        () -> text(names) + " " + of(COMPARISONS) + " " + literal(),
        () -> text(names) + " in (" + literal() + ", " + literal() + ")",
        () -> column(names, "t") + " like '%a%'",
        () -> column(names, of(List.of("i", "t", "b", "o"))) + " is null",
        () -> column(names, "i") + " between " + random.nextInt(3) + " and " + random.nextInt(9),
        () -> column(names, "o"),
        () -> column(names, "i") + " is distinct from " + column(names, "b"),
        ELSE,
        () -> column(names, of(List.of("d", "x", "taken"))) + " is null",
        () -> column(names, "taken") + " >= date '2026-03-0" + (1 + random.nextInt(9)) + "'",
        () -> column(names, "x") + " > 0.5e0");
  }

  private String subquery(List<String> names) {
    String inner = "t" + aliases++;
    String table = of(tables);
    String outer = of(names);
    String key = of(List.of("i", "b", "t"));
    String correlated = "%s.%s = %s.%s".formatted(inner, key, outer, key);
    return simply(
        () -> "exists (select 1 from %s %s where %s)".formatted(table, inner, correlated),
        () ->
            "not exists (select 1 from %s %s where %s and %s)"
                .formatted(table, inner, correlated, condition(List.of(inner), 0)),
        () -> "%s.%s in (select %s from %s)".formatted(outer, key, key, table),
        () -> "%s.%s not in (select %s from %s where i > 2)".formatted(outer, key, key, table),
        () -> "(%s.i, %s.b) not in (select b, i from %s)".formatted(outer, outer, table),
        () -> "%s.b > (select min(i) from %s)".formatted(outer, table),
        () ->
            "%s.i <= (select max(%s.i) from %s %s where %s)"
                .formatted(outer, inner, table, inner, correlated),
        ELSE,
        () ->
            "exists (select 1 from %s %s where %s and coalesce(%s.d, 0) <> coalesce(%s.d, 0))"
                .formatted(table, inner, correlated, inner, outer));
  }

  private String literal() {
    return of(List.of("'a'", "'ab'", "''", "'😀'", "'\uFFFD'", "'Zoë'"));
  }
}
