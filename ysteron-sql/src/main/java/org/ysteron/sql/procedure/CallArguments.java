package org.ysteron.sql.procedure;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.temporal.TemporalAmount;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.option.Budget;
import org.ysteron.option.Retention;
import org.ysteron.sql.catalog.Points;
import org.ysteron.sql.text.SqlConstant;
import org.ysteron.sql.text.SqlText;
import org.ysteron.sql.text.SqlTextException;

/**
 * The arguments of a call: the table, wherever it stands, and those without a name in the order of
 * the other parameters. Each is a constant expression, or TABLE and a table. For one call.
 */
public final class CallArguments {
  private final SqlCall call;
  private final Context context;
  private final Map<String, SqlCall> given = new HashMap<>();
  private String form = "";

  /**
   * Where a call stands.
   *
   * @param schema where tables are whose names are given alone
   * @param now what CURRENT_TIMESTAMP is
   */
  public record Context(LakeView lake, Optional<String> schema, SqlText text, Instant now) {
    Points points() {
      return new Points(lake, schema, text, now);
    }
  }

  /** The arguments of a parsed call. */
  public CallArguments(SqlCall call, Context context) {
    this.call = call;
    this.context = context;
  }

  /** The name of the procedure, with its schema. */
  String procedure() {
    return String.join(".", ((SqlIdentifier) call.operand(0)).names).toLowerCase(Locale.ROOT);
  }

  SqlTextException wrong(String what) {
    return context.text.wrong(what, call.operand(0).getParserPosition(), null);
  }

  private SqlTextException wrong(String what, SqlNode at) {
    return context.text.wrong(what + " Write " + form + ".", at.getParserPosition(), null);
  }

  /**
   * Takes the arguments.
   *
   * @param names the parameters, in their order
   */
  void bind(String usage, List<String> names) {
    form = usage;
    Set<String> known = new HashSet<>(names);
    int next = 0;
    for (SqlNode node : (SqlNodeList) call.operand(1)) {
      SqlCall argument = (SqlCall) node;
      SqlIdentifier named = argument.operand(0);
      boolean isTable = named == null && argument.operand(1) != null;
      if (named == null && !isTable && next < names.size() && names.get(next).equals("table")) {
        next++;
      }
      if (named == null && !isTable && next >= names.size()) {
        throw wrong("There are too many arguments.", argument);
      }
      String name =
          isTable
              ? "table"
              : named == null ? names.get(next++) : named.getSimple().toLowerCase(Locale.ROOT);
      if (!known.contains(name)) {
        throw wrong("There is no argument %s.".formatted(name), argument);
      }
      if (given.put(name, argument) != null) {
        throw wrong("The argument %s is given twice.".formatted(name), argument);
      }
    }
  }

  boolean has(String name) {
    return given.containsKey(name);
  }

  private SqlCall needed(String name) {
    SqlCall argument = given.get(name);
    if (argument == null) {
      throw wrong("The argument %s is missing.".formatted(name), call);
    }
    return argument;
  }

  /** The name of a table that is given as TABLE and its name. */
  String table(String name) {
    return context.points().name(identifier(name));
  }

  private SqlIdentifier identifier(String name) {
    SqlCall argument = needed(name);
    SqlIdentifier table = argument.operand(1);
    if (table == null) {
      throw wrong("The argument %s is a table.".formatted(name), argument);
    }
    return table;
  }

  /** The version of a table at a point. */
  TableView version(String table, String point) {
    return context.points().table(identifier(table), value(point));
  }

  /** The lake at a point. */
  LakeView lake(String point) {
    return context.points().lake(value(point));
  }

  private SqlNode value(String name) {
    SqlCall argument = needed(name);
    SqlNode value = argument.operand(2);
    if (value == null) {
      throw wrong("The argument %s is a value.".formatted(name), argument);
    }
    return value;
  }

  private @Nullable Object constant(String name) {
    return SqlConstant.of(value(name), context.text, context.now);
  }

  /** A text. */
  String text(String name) {
    if (constant(name) instanceof String text) {
      return text;
    }
    throw wrong("The argument %s is a text.".formatted(name), needed(name));
  }

  /** A whole number; empty when none is given. */
  Optional<Long> number(String name) {
    if (!has(name)) {
      return Optional.empty();
    }
    Object value = constant(name);
    if (value instanceof Integer || value instanceof Long) {
      return Optional.of(((Number) value).longValue());
    }
    throw wrong("The argument %s is a whole number.".formatted(name), needed(name));
  }

  /** A truth; false when none is given. */
  boolean flag(String name) {
    if (!has(name)) {
      return false;
    }
    if (constant(name) instanceof Boolean truth) {
      return truth;
    }
    throw wrong("The argument %s is TRUE or FALSE.".formatted(name), needed(name));
  }

  /** A span of time: an interval, or a text such as 'P30D'; empty when none is given. */
  Optional<TemporalAmount> span(String name) {
    if (!has(name)) {
      return Optional.empty();
    }
    Object value = constant(name);
    if (value instanceof TemporalAmount amount) {
      return Optional.of(amount);
    }
    if (value instanceof String text) {
      return Optional.of(Retention.parseSpan(text));
    }
    throw wrong("The argument %s is a span of time.".formatted(name), needed(name));
  }

  /** How much is to be done: {@code budget}, {@code files} and {@code bytes}. */
  Budget budget() {
    Budget budget = Budget.ALL;
    Optional<TemporalAmount> time = span("budget");
    if (time.isPresent()) {
      budget = budget.ofTime(duration("budget", time.get()));
    }
    Optional<Long> files = number("files");
    budget = files.isPresent() ? budget.ofFiles(files.get()) : budget;
    Optional<Long> bytes = number("bytes");
    return bytes.isPresent() ? budget.ofBytes(bytes.get()) : budget;
  }

  /** A span as a duration. */
  Duration duration(String name, TemporalAmount span) {
    if (span instanceof Period period && period.toTotalMonths() != 0) {
      throw wrong(
          "The argument %s is a span of days, hours, minutes or seconds.".formatted(name),
          needed(name));
    }
    LocalDateTime start = LocalDate.EPOCH.atStartOfDay();
    return Duration.between(start, start.plus(span));
  }

  /** Which versions are kept: {@code keep_for}, {@code keep_newest} and {@code keep_thinned}. */
  Optional<Retention> retention() {
    Optional<TemporalAmount> span = span("keep_for");
    Optional<Long> newest = number("keep_newest");
    if (span.isEmpty() && newest.isEmpty() && !has("keep_thinned")) {
      return Optional.empty();
    }
    Retention rules = Retention.EVERYTHING;
    rules = span.isPresent() ? rules.andFor(span.get()) : rules;
    rules = newest.isPresent() ? rules.andNewest(Math.toIntExact(newest.get())) : rules;
    if (has("keep_thinned")) {
      for (Retention.Thinned rule : Retention.parseThinning(text("keep_thinned"))) {
        rules = rules.andOneEach(rule.each(), rule.span());
      }
    }
    return Optional.of(rules);
  }
}
