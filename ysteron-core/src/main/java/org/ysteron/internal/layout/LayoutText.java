package org.ysteron.internal.layout;

import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.filter.Ordered;
import org.ysteron.internal.text.Decimals;
import org.ysteron.option.LayoutPlan;

/** Reads the rules of a {@link LayoutPlan} by the columns of a schema. */
public final class LayoutText {
  private static final String CURVE = "curve";
  private static final int MOST_HASHED = 100_000;

  /** A word, a path whose names may be in quotes, and the rest. */
  private static final Pattern START =
      Pattern.compile("\\s*(\\w+)\\s+((?:\"(?:[^\"]|\"\")*+\"|[^\\s\"(,])++)(.*)", Pattern.DOTALL);

  private final String text;
  private final Schema schema;
  private final Tokens tokens;
  private final String kind;
  private final String path;

  LayoutText(String text, Schema schema) {
    this.text = text;
    this.schema = schema;
    Matcher start = START.matcher(text);
    boolean starts = start.matches();
    this.kind = starts ? start.group(1) : "";
    this.path = starts ? start.group(2) : "";
    this.tokens = new Tokens(starts ? start.group(3) : "");
  }

  PartitionRule parse() {
    if (path.isEmpty()) {
      throw wrong("it must start with range, list or hash, followed by the path of a column");
    }
    Field field = leaf(schema, path);
    PartitionRule rule =
        switch (kind.toLowerCase(java.util.Locale.ROOT)) {
          case "range" -> range(field);
          case "list" -> list(field);
          case "hash" -> hash(field);
          default -> throw wrong("it must start with range, list or hash");
        };
    if (next() != Tokens.END) {
      throw wrong("there is text after its end");
    }
    return rule;
  }

  private PartitionRule range(Field field) {
    String how = word("every or at");
    if (how.equalsIgnoreCase("at")) {
      return new PartitionRule.At(field.id(), field.type(), ascending(field.type()));
    }
    if (!how.equalsIgnoreCase("every")) {
      throw wrong("range must be followed by a column and every or at");
    }
    long step = number(Integer.MAX_VALUE);
    Type type = field.type();
    if (next() == Tokens.END) {
      tokens.pushBack();
      boolean numeric =
          type instanceof Type.Decimal
              || type == Types.INTEGER
              || type == Types.BIGINT
              || Ordered.isFloating(type);
      if (!numeric) {
        throw wrong("column %s is %s and needs a unit or bounds".formatted(field.name(), type));
      }
      return new PartitionRule.Every(field.id(), step, ChronoUnit.FOREVER);
    }
    ChronoUnit unit = tokens.sval == null ? null : PartitionRule.unit(tokens.sval);
    if (unit == null) {
      throw wrong("a step is a number of years, months, days, hours or minutes, or a plain number");
    }
    boolean fine = unit == ChronoUnit.HOURS || unit == ChronoUnit.MINUTES;
    boolean fits =
        type == Types.TIMESTAMP
            || type == Types.INSTANT
            || (type == Types.DATE && !fine)
            || (type == Types.TIME && fine);
    if (!fits) {
      throw wrong("column %s is %s, which has no %s".formatted(field.name(), type, tokens.sval));
    }
    return new PartitionRule.Every(field.id(), step, unit);
  }

  private List<Object> ascending(Type type) {
    List<Object> bounds = values(type);
    for (int i = 1; i < bounds.size(); i++) {
      if (Ordered.compare(bounds.get(i - 1), bounds.get(i), type) >= 0) {
        throw wrong("its bounds must ascend");
      }
    }
    return bounds;
  }

  private PartitionRule list(Field field) {
    if (next() == Tokens.END) {
      tokens.pushBack();
      return new PartitionRule.EachValue(field.id());
    }
    if (tokens.sval == null || !tokens.sval.equalsIgnoreCase("of")) {
      throw wrong("after the column of a list, only 'of' and groups in parentheses may follow");
    }
    List<List<Object>> groups = new ArrayList<>();
    Set<Object> seen = new HashSet<>();
    do {
      expect('(');
      List<Object> group = values(field.type());
      expect(')');
      for (Object value : group) {
        if (!seen.add(value)) {
          throw wrong(Values.show(value) + " is in it twice");
        }
      }
      groups.add(group);
    } while (next() == ',');
    tokens.pushBack();
    return new PartitionRule.Groups(field.id(), field.type(), groups);
  }

  private PartitionRule hash(Field field) {
    if (!word("into").equalsIgnoreCase("into")) {
      throw wrong("the column of a hash must be followed by 'into' and a number of parts");
    }
    return new PartitionRule.Hash(field.id(), (int) number(MOST_HASHED));
  }

  private List<Object> values(Type type) {
    List<Object> values = new ArrayList<>();
    do {
      int token = next();
      if (token != Tokens.TEXT && token != Tokens.WORD) {
        throw wrong("a value is missing");
      }
      try {
        values.add(ValueText.parse(tokens.sval, type));
      } catch (InvalidInputException e) {
        throw wrong(e.getMessage());
      }
    } while (next() == ',');
    tokens.pushBack();
    return values;
  }

  private long number(long most) {
    try {
      long number = Decimals.parse(word("a number")).longValueExact();
      if (number >= 1 && number <= most) {
        return number;
      }
    } catch (ArithmeticException | NumberFormatException e) {
      throw wrong("a whole number is expected: " + e.getMessage());
    }
    throw wrong("its number is from 1 to " + most);
  }

  private void expect(char wanted) {
    if (next() != wanted) {
      throw wrong("there is a " + wanted + " missing");
    }
  }

  private String word(String what) {
    if (next() != Tokens.WORD) {
      throw wrong("it lacks " + what);
    }
    return tokens.sval;
  }

  private int next() {
    return tokens.next();
  }

  private InvalidInputException wrong(String what) {
    if (text.startsWith(CURVE + " ")) {
      return new InvalidInputException(
          "The column \"%s\" of a curve cannot be used: %s. Such columns are, for example: level_cm; level_cm at 1, 5, 20."
              .formatted(text.substring(CURVE.length()).strip(), what));
    }
    return new InvalidInputException(
        "The partition rule \"%s\" cannot be used: %s. Rules are, for example: range taken_at every 1 month; range name at 'F', 'M'; list harbour; list harbour of ('a', 'b'), ('c'); hash gauge_id into 16."
            .formatted(text, what));
  }

  /**
   * The layout that a plan means, by the columns of a schema.
   *
   * @throws InvalidInputException when a rule cannot be read or does not fit its column
   */
  public static Layout bind(LayoutPlan plan, Schema schema) {
    if (plan.rules().size() > Layout.MOST_RULES) {
      throw new InvalidInputException(
          "A layout has %d partition rules; the limit is %d."
              .formatted(plan.rules().size(), Layout.MOST_RULES));
    }
    List<PartitionRule> bound = new ArrayList<>();
    for (String rule : plan.rules()) {
      bound.add(new LayoutText(rule, schema).parse());
    }
    List<Layout.SortColumn> columns = new ArrayList<>();
    Set<Integer> seen = new HashSet<>();
    for (String column : plan.sort()) {
      boolean descending =
          column.strip().toLowerCase(java.util.Locale.ROOT).endsWith(" descending");
      String path = descending ? column.strip().substring(0, column.strip().length() - 11) : column;
      Field field = leaf(schema, path.strip());
      if (!seen.add(field.id())) {
        throw new InvalidInputException("The layout sorts by column " + path.strip() + " twice.");
      }
      columns.add(new Layout.SortColumn(field.id(), descending));
    }
    return new Layout(bound, columns, curve(plan, schema));
  }

  private static Optional<Curve> curve(LayoutPlan plan, Schema schema) {
    List<String> along = plan.curve();
    if (along.isEmpty()) {
      return Optional.empty();
    }
    if (!plan.sort().isEmpty()) {
      throw new InvalidInputException(
          "A layout sorts rows by columns or along a curve, not both. Choose one of them.");
    }
    if (along.size() < Curve.FEWEST || along.size() > Curve.MOST) {
      throw new InvalidInputException(
          "A curve orders rows by %d to %d columns, not %d. Sort by one column, or choose the columns that conditions use most."
              .formatted(Curve.FEWEST, Curve.MOST, along.size()));
    }
    List<Curve.Axis> axes = new ArrayList<>();
    Set<Integer> seen = new HashSet<>();
    for (String column : along) {
      Curve.Axis axis = new LayoutText(CURVE + " " + column, schema).axis();
      if (!seen.add(axis.fieldId())) {
        throw new InvalidInputException("The curve uses column " + column + " twice.");
      }
      axes.add(axis);
    }
    return Optional.of(new Curve(axes));
  }

  /** A column of a curve: its path, and its quantiles when they are known. */
  private Curve.Axis axis() {
    if (path.isEmpty()) {
      throw wrong("a curve is given by the paths of columns");
    }
    Field field = leaf(schema, path);
    if (field.type() == Types.JSON || field.type() == Types.BOOLEAN) {
      throw InvalidInputException.ofColumn(
          path,
          "Column %s is %s, which has no order for a curve to follow. Choose columns of numbers, times or texts."
              .formatted(path, field.type()));
    }
    if (next() == Tokens.END) {
      return new Curve.Axis(field.id(), field.type(), List.of());
    }
    tokens.pushBack();
    if (!word("at").equalsIgnoreCase("at")) {
      throw wrong("after a column of a curve, only 'at' and its quantiles may follow");
    }
    List<Object> quantiles = ascending(field.type());
    if (next() != Tokens.END) {
      throw wrong("there is text after its end");
    }
    return new Curve.Axis(field.id(), field.type(), quantiles);
  }

  private static Field leaf(Schema schema, String path) {
    List<Field> along = schema.resolve(path);
    Field field = along.get(along.size() - 1);
    if (field.type().isNested()) {
      throw InvalidInputException.ofColumn(
          path,
          "Column %s is %s; a layout uses columns of single values, such as a field of it."
              .formatted(path, field.type()));
    }
    return field;
  }

  /** Words, texts in single quotes (of bytes, with an X before them), and other characters. */
  private static final class Tokens {
    static final int END = -1;
    static final int WORD = 'w';
    static final int TEXT = '\'';

    private static final Pattern TOKEN =
        Pattern.compile("[Xx]?'((?:[^']|'')*+)'|([^\\s'(),]++)|(\\S)");

    private final Matcher matcher;
    private int kind;
    private boolean again;
    private String sval;

    Tokens(String text) {
      this.matcher = TOKEN.matcher(text);
    }

    int next() {
      if (again) {
        again = false;
        return kind;
      }
      sval = null;
      if (!matcher.find()) {
        kind = END;
      } else if (matcher.group(1) != null) {
        kind = TEXT;
        sval = matcher.group(1).replace("''", "'");
      } else if (matcher.group(2) != null) {
        kind = WORD;
        sval = matcher.group(2);
      } else {
        kind = matcher.group(3).charAt(0);
      }
      return kind;
    }

    void pushBack() {
      again = true;
    }
  }
}
