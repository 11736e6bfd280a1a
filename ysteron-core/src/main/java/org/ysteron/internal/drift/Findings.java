package org.ysteron.internal.drift;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Widening;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Decimals;
import org.ysteron.option.WriteRules;

/**
 * What the values of a column tell of its type. Findings unite in any order, and what they come to
 * depends on which values there were, never on which came first: {@link #and} is associative,
 * commutative and idempotent.
 *
 * <p>Null, empty lists and empty objects tell nothing yet. Numbers tell their digits before and
 * behind the point, and whether a double holds them exactly, that is: whether its shortest decimal
 * form is the number. Texts are looked at for dates and times of ISO 8601, and those of files
 * without types, such as CSV, also for booleans and for numbers as JSON writes them, without zeros
 * in front. What no other type takes is text; what is nested and not alike is JSON. Immutable, as
 * far as anybody sees.
 */
public final class Findings {
  /** What tells nothing. */
  public static final Findings NOTHING =
      new Findings(0, Digits.NONE, 0, Optional.empty(), false, Map.of(), null);

  private static final int TRUTH = 1;
  private static final int WHOLE = 1 << 1;
  private static final int FRACTION = 1 << 2;
  private static final int DATE = 1 << 3;
  private static final int TIME = 1 << 4;
  private static final int TIMESTAMP = 1 << 5;
  private static final int INSTANT = 1 << 6;
  private static final int TEXT = 1 << 7;
  private static final int EMPTY = 1 << 8;
  private static final int OBJECT = 1 << 9;
  private static final int LIST = 1 << 10;

  /** Something in objects has a name that no column can have. */
  private static final int LEFT = 1 << 11;

  private static final int NUMBERS = WHOLE | FRACTION;
  private static final int NESTED = OBJECT | LIST;

  private static final int INTEGER_DIGITS = 10;
  private static final int BIGINT_DIGITS = 19;

  /** So many digits surely are an INTEGER. */
  private static final int SHORT_WHOLE = 9;

  private final int kinds;
  private final Digits digits;
  private final int longest;
  private final Optional<Type> declared;
  private final boolean clash;
  private final Map<String, Member> members;
  private final Findings element;
  private final boolean nothing;
  private final int names;
  private final boolean leaves;

  /** Worked out once, since objects in objects ask for it again at each level; null before. */
  private Type told;

  /**
   * What is in a member of objects.
   *
   * @param name its name; of several that differ by case only the first by code points
   * @param last the last of those
   * @param place where it stands in its objects at the most
   */
  record Member(String name, String last, int place, Findings findings) {
    Member and(Member other) {
      Findings both = findings.and(other.findings);
      String least = name.compareTo(other.name) <= 0 ? name : other.name;
      String most = last.compareTo(other.last) >= 0 ? last : other.last;
      int furthest = Math.max(place, other.place);
      boolean same =
          both == findings && least.equals(name) && most.equals(last) && furthest == place;
      return same ? this : new Member(least, most, furthest, both);
    }
  }

  private Findings(
      int kinds,
      Digits digits,
      int longest,
      Optional<Type> declared,
      boolean clash,
      Map<String, Member> members,
      Findings element) {
    this.kinds = kinds;
    this.digits = digits;
    this.longest = longest;
    this.declared = declared;
    this.clash = clash;
    this.members = members;
    this.element = element;
    boolean tells =
        (kinds & ~(NESTED | LEFT)) != 0 || declared.isPresent() || (kinds & NESTED) == NESTED;
    tells |= element != null && !element.nothing;
    int count = element == null ? 0 : element.names;
    for (Member member : members.values()) {
      tells |= !member.findings.nothing;
      count += 1 + member.findings.names;
    }
    boolean left = (kinds & LEFT) != 0 || (element != null && element.leaves);
    left |= members.values().stream().anyMatch(member -> member.findings.leaves);
    this.leaves = left;
    this.nothing = !tells;
    this.names = count;
  }

  private static Findings of(int kind, Digits digits, int longest) {
    return new Findings(kind, digits, longest, Optional.empty(), false, Map.of(), null);
  }

  /** What a type tells that somebody gave the values. */
  static Findings declared(Type type) {
    return new Findings(0, Digits.NONE, 0, Optional.of(type), false, Map.of(), null);
  }

  /**
   * What a value tells that came without a type: parsed JSON (maps, lists, text, numbers, booleans)
   * or Java values.
   *
   * @param rules whether names that differ by case only are the same, and whether a name that no
   *     column can have is refused or its value left over
   * @throws InvalidInputException when an object has two names that are the same, or one that no
   *     column can have
   */
  public static Findings of(Object value, WriteRules rules) {
    if (value == null) {
      return NOTHING;
    }
    if (value instanceof FieldText text) {
      return ofFieldText(text.text());
    }
    if (value instanceof Row row) {
      return declared(new Type.Struct(row.fields()));
    }
    if (value instanceof Map<?, ?> object) {
      return ofObject(object, rules);
    }
    if (value instanceof List<?> list) {
      Findings all = NOTHING;
      for (Object each : list) {
        all = all.and(of(each, rules));
      }
      return new Findings(LIST, Digits.NONE, 0, Optional.empty(), false, Map.of(), all);
    }
    if (value instanceof String text) {
      return of(TextForm.of(text).map(Findings::kind).orElse(TEXT), Digits.NONE, length(text));
    }
    if (value instanceof Boolean) {
      return of(TRUTH, Digits.NONE, value.toString().length());
    }
    if (value instanceof Float) {
      return declared(Types.REAL);
    }
    if (value instanceof Number number) {
      return ofNumber(number);
    }
    return declared(Types.ofJava(value).orElse(Types.text()));
  }

  private static int length(String text) {
    return text.codePointCount(0, text.length());
  }

  private static Findings ofObject(Map<?, ?> object, WriteRules rules) {
    Map<String, Member> members = new TreeMap<>();
    int place = 0;
    boolean leaves = false;
    for (Map.Entry<?, ?> entry : object.entrySet()) {
      String name = String.valueOf(entry.getKey());
      if (rules.drift().setsAside() && !isPossible(name)) {
        leaves |= entry.getValue() != null;
        continue;
      }
      Field.of(name, Types.BOOLEAN); // says what is wrong with it
      Member member = new Member(name, name, place++, of(entry.getValue(), rules));
      Member same = members.put(fold(name, rules), member);
      if (same != null) {
        throw new InvalidInputException(
            "%s and %s are the same field when case is ignored".formatted(same.name, name));
      }
    }
    int kinds = leaves ? OBJECT | LEFT : OBJECT;
    return new Findings(kinds, Digits.NONE, 0, Optional.empty(), false, members, null);
  }

  private static boolean isPossible(String name) {
    try {
      Field.of(name, Types.BOOLEAN);
      return true;
    } catch (InvalidInputException e) {
      return false;
    }
  }

  /** A name as names are compared. */
  static String fold(String name, WriteRules rules) {
    return rules.ignoreCase() ? name.toLowerCase(Locale.ROOT) : name;
  }

  private static Findings ofNumber(Number number) {
    int length = number.toString().length();
    if (number instanceof Double real) {
      return Double.isFinite(real)
          ? of(FRACTION, Digits.of(new BigDecimal(real.toString())), length)
          : of(FRACTION, new Digits(0, 0, 0, false, false, true), length);
    }
    if (number instanceof BigDecimal decimal) {
      return of(FRACTION, Digits.of(Decimals.bounded(decimal)), length);
    }
    return of(WHOLE, Digits.of(Decimals.of(number)), length);
  }

  private static int kind(TextForm form) {
    return switch (form) {
      case DATE -> DATE;
      case TIME -> TIME;
      case TIMESTAMP -> TIMESTAMP;
      case INSTANT -> INSTANT;
    };
  }

  /** What a text tells of a file in which everything is text. */
  private static Findings ofFieldText(String text) {
    if (text.isEmpty()) {
      return of(EMPTY, Digits.NONE, 0);
    }
    if (text.equals("true") || text.equals("false")) {
      return of(TRUTH, Digits.NONE, text.length());
    }
    char first = text.charAt(0);
    if (first != '-' && (first < '0' || first > '9')) {
      return of(TEXT, Digits.NONE, length(text));
    }
    Findings plain = ofPlainNumber(text);
    if (plain != null) {
      return plain;
    }
    Optional<Object> number = FieldText.number(text);
    if (number.isPresent()) {
      Findings of = ofNumber((Number) number.get());
      return of(of.kinds, of.digits, text.length());
    }
    return of(TextForm.of(text).map(Findings::kind).orElse(TEXT), Digits.NONE, length(text));
  }

  /** What short digits tell, with a point or none, as most numbers are; null of all others. */
  private static Findings ofPlainNumber(String text) {
    int start = text.charAt(0) == '-' ? 1 : 0;
    int point = -1;
    boolean zero = true;
    for (int i = start; i < text.length(); i++) {
      char c = text.charAt(i);
      if (c == '.' && point < 0) {
        point = i;
      } else if (c < '0' || c > '9') {
        return null;
      } else {
        zero &= c == '0';
      }
    }
    int end = point < 0 ? text.length() : point;
    int before = end - start;
    int behind = point < 0 ? 0 : text.length() - point - 1;
    boolean zeroInFront = before > 1 && text.charAt(start) == '0';
    boolean isShort = before + behind <= (point < 0 ? SHORT_WHOLE : Exactness.SAFE_DOUBLE_DIGITS);
    if (before == 0
        || (point >= 0 && behind == 0)
        || zeroInFront
        || !isShort
        || (zero && start > 0)) {
      return null;
    }
    boolean nothingInFront = point >= 0 && text.charAt(start) == '0';
    boolean noReal =
        before + behind > Exactness.SAFE_REAL_DIGITS && !Exactness.isReal(new BigDecimal(text));
    Digits digits = new Digits(0, nothingInFront ? 0 : before, behind, false, noReal, false);
    return of(point < 0 ? WHOLE : FRACTION, digits, text.length());
  }

  /** These and others. */
  public Findings and(Findings other) {
    if (other == this || other == NOTHING) {
      return this;
    }
    if (this == NOTHING) {
      return other;
    }
    Digits bothDigits = digits.and(other.digits);
    Optional<Type> bothDeclared = declared;
    boolean bothClash = clash || other.clash;
    if (declared.isPresent() && other.declared.isPresent()) {
      bothDeclared = common(declared.get(), other.declared.get());
      if (bothDeclared.isEmpty()) {
        bothClash = true;
        bothDeclared = Optional.of(Types.JSON); // which is never used
      }
    } else if (other.declared.isPresent()) {
      bothDeclared = other.declared;
    }
    Map<String, Member> bothMembers = members(other);
    Findings bothElements =
        element == null
            ? other.element
            : other.element == null ? element : element.and(other.element);
    boolean same =
        (kinds | other.kinds) == kinds
            && bothDigits.equals(digits)
            && Math.max(longest, other.longest) == longest
            && bothDeclared.equals(declared)
            && bothClash == clash
            && bothMembers == members
            && bothElements == element;
    return same
        ? this
        : new Findings(
            kinds | other.kinds,
            bothDigits,
            Math.max(longest, other.longest),
            bothDeclared,
            bothClash,
            bothMembers,
            bothElements);
  }

  private Map<String, Member> members(Findings other) {
    Map<String, Member> both = members;
    for (Map.Entry<String, Member> theirs : other.members.entrySet()) {
      Member mine = members.get(theirs.getKey());
      Member united = mine == null ? theirs.getValue() : mine.and(theirs.getValue());
      if (!united.equals(mine)) {
        both = both == members ? new TreeMap<>(members) : both;
        both.put(theirs.getKey(), united);
      }
    }
    return both;
  }

  /** Whether they tell nothing, so that there is nothing that a column would be for. */
  public boolean isNothing() {
    return nothing;
  }

  /** Whether something is in them that no column takes, whatever its type. */
  boolean leaves() {
    return leaves;
  }

  /** How many names are in them, at all depths. */
  int names() {
    return names;
  }

  /** Two names each that are taken for one, since they differ by case only. */
  List<List<String>> met() {
    List<List<String>> met = new ArrayList<>();
    for (Member member : members.values()) {
      if (!member.name.equals(member.last)) {
        met.add(List.of(member.name, member.last));
      }
      met.addAll(member.findings.met());
    }
    if (element != null) {
      met.addAll(element.met());
    }
    return met;
  }

  /** The least type of a new column; empty when nothing is told, or when no type takes all. */
  public Optional<Type> type() {
    if (isNothing() || clash) {
      return Optional.empty();
    }
    if (declared.isEmpty()) {
      return Optional.of(told());
    }
    if (kinds == 0) {
      return declared;
    }
    return declared.get().isNested() ? common(declared.get(), told()) : above(declared.get());
  }

  /**
   * The least type that takes these values, and all of a narrower type, exactly; empty for none.
   */
  public Optional<Type> above(Type floor) {
    if (clash || floor.isNested()) {
      return Optional.empty();
    }
    if (declared.isPresent()) {
      Optional<Type> both = common(floor, declared.get());
      return kinds == 0 ? both : both.filter(type -> !type.isNested()).flatMap(this::toldAbove);
    }
    return toldAbove(floor);
  }

  private Optional<Type> toldAbove(Type floor) {
    for (Type wider : widenings(floor)) {
      if (isHeldBy(wider)) {
        return Optional.of(wider);
      }
    }
    return Optional.empty();
  }

  private List<Type> widenings(Type floor) {
    List<Type> wider = new ArrayList<>(List.of(floor));
    if (floor == Types.INTEGER) {
      wider.add(Types.BIGINT);
      if ((kinds & FRACTION) != 0) {
        wider.add(Types.DOUBLE);
      }
      decimal(INTEGER_DIGITS, 0).ifPresent(wider::add);
      wider.add(Types.DOUBLE);
    } else if (floor == Types.BIGINT) {
      decimal(BIGINT_DIGITS, 0).ifPresent(wider::add);
    } else if (floor == Types.REAL) {
      wider.add(Types.DOUBLE);
    } else if (floor instanceof Type.Decimal decimal) {
      decimal(decimal.precision() - decimal.scale(), decimal.scale()).ifPresent(wider::add);
    } else if (floor == Types.DATE) {
      wider.add(Types.TIMESTAMP);
    } else if (floor instanceof Type.Text) {
      wider.add(Types.text());
    }
    return wider;
  }

  private Optional<Type> decimal(int before, int behind) {
    int scale = Math.max(behind, digits.behind());
    int precision = Math.max(1, Math.max(before, digits.before()) + scale);
    return precision <= Type.Decimal.MOST_DIGITS
        ? Optional.of(Types.decimal(precision, scale))
        : Optional.empty();
  }

  private Type told() {
    told = told == null ? leastOfAll() : told;
    return told;
  }

  private Type leastOfAll() {
    if ((kinds & NESTED) != 0) {
      return nested();
    }
    List<Type> types = new ArrayList<>(List.of(Types.BOOLEAN, Types.INTEGER, Types.BIGINT));
    if ((kinds & FRACTION) != 0) {
      types.add(Types.DOUBLE);
    }
    decimal(0, 0).ifPresent(types::add);
    types.addAll(List.of(Types.DOUBLE, Types.DATE, Types.TIMESTAMP, Types.TIME, Types.INSTANT));
    boolean tells = (kinds & ~(EMPTY | LEFT)) != 0;
    return types.stream().filter(type -> tells && isHeldBy(type)).findFirst().orElse(Types.text());
  }

  private Type nested() {
    int alike = kinds & ~LEFT;
    if (alike != OBJECT) {
      Optional<Type> elements = alike == LIST ? element.type() : Optional.empty();
      return elements.map(Types::listOf).orElse(Types.JSON);
    }
    List<Field> fields = new ArrayList<>();
    members.values().stream()
        .sorted(Comparator.comparingInt(Member::place).thenComparing(Member::name))
        .forEach(
            member ->
                member.findings.type().ifPresent(type -> fields.add(Field.of(member.name, type))));
    return fields.isEmpty() ? Types.JSON : new Type.Struct(fields);
  }

  /** Whether a type takes all these values exactly; those that were declared apart. */
  private boolean isHeldBy(Type type) {
    int told = kinds & ~(EMPTY | LEFT);
    if (type == Types.JSON) {
      return true;
    }
    if (type instanceof Type.Text text) {
      return (told & NESTED) == 0 && (text.limit().isEmpty() || longest <= text.limit().getAsInt());
    }
    if (type instanceof Type.Decimal decimal) {
      return (told & ~NUMBERS) == 0
          && !digits.onlyDouble()
          && digits.behind() <= decimal.scale()
          && digits.before() <= decimal.precision() - decimal.scale();
    }
    if (!(type instanceof Type.Simple simple)) {
      return false;
    }
    return switch (simple) {
      case BOOLEAN -> told == TRUTH;
      case INTEGER -> told == WHOLE && digits.width() == 0;
      case BIGINT -> told == WHOLE && digits.width() <= 1;
      case REAL -> (told & ~NUMBERS) == 0 && !digits.noReal();
      case DOUBLE -> (told & ~NUMBERS) == 0 && !digits.noDouble();
      case DATE -> told == DATE;
      case TIMESTAMP -> (told & ~(DATE | TIMESTAMP)) == 0;
      case TIME -> told == TIME;
      case INSTANT -> told == INSTANT;
      default -> false;
    };
  }

  /** A type that takes the values of both; empty when there is none. */
  private static Optional<Type> common(Type one, Type other) {
    if (one instanceof Type.Struct a && other instanceof Type.Struct b) {
      Map<String, Integer> places = new HashMap<>();
      List<Field> fields = new ArrayList<>(a.fields());
      fields.forEach(field -> places.put(field.name(), places.size()));
      for (Field field : b.fields()) {
        Integer at = places.get(field.name());
        if (at == null) {
          fields.add(field);
          continue;
        }
        Optional<Type> both = common(fields.get(at).type(), field.type());
        if (both.isEmpty()) {
          return both;
        }
        fields.set(at, fields.get(at).withType(both.get()));
      }
      return Optional.of(new Type.Struct(fields));
    }
    if (one instanceof Type.ListOf a && other instanceof Type.ListOf b) {
      return common(a.element().type(), b.element().type()).map(Types::listOf);
    }
    if (one instanceof Type.MapOf a && other instanceof Type.MapOf b) {
      return a.key().type().equals(b.key().type())
          ? common(a.value().type(), b.value().type())
              .map(type -> Types.mapOf(a.key().type(), type))
          : Optional.empty();
    }
    return one.isNested() || other.isNested()
        ? Optional.of(one).filter(other::equals)
        : Widening.common(one, other);
  }

  @Override
  public String toString() {
    return type().map(Type::toString).orElse(isNothing() ? "nothing" : "no one type");
  }
}
