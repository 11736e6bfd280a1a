package org.ysteron.expr;

/** The operators and functions that values are computed with, in their ISO SQL meaning. */
public enum Operator {
  ADD("+", 2, 2),
  SUBTRACT("-", 2, 2),
  MULTIPLY("*", 2, 2),
  DIVIDE("/", 2, 2),
  NEGATE("-", 1, 1),
  MOD("MOD", 2, 2),
  ABS("ABS", 1, 1),
  ROUND("ROUND", 1, 2),
  FLOOR("FLOOR", 1, 1),
  CEIL("CEIL", 1, 1),
  POWER("POWER", 2, 2),
  SQRT("SQRT", 1, 1),
  EXP("EXP", 1, 1),
  LN("LN", 1, 1),
  CONCAT("||", 2, 2),
  UPPER("UPPER", 1, 1),
  LOWER("LOWER", 1, 1),
  /** Both ends; the second argument, if there is one, is the character to take away. */
  TRIM("TRIM", 1, 2),
  TRIM_LEADING("TRIM", 1, 2),
  TRIM_TRAILING("TRIM", 1, 2),
  /** Text, position of the first character, and how many. */
  SUBSTRING("SUBSTRING", 2, 3),
  /** What is searched, and in what. */
  POSITION("POSITION", 2, 2),
  CHAR_LENGTH("CHAR_LENGTH", 1, 1),
  /** Text, what is put in, from which character on, in place of how many. */
  OVERLAY("OVERLAY", 3, 4),
  COALESCE("COALESCE", 1, Integer.MAX_VALUE),
  NULLIF("NULLIF", 2, 2),
  CURRENT_TIMESTAMP("CURRENT_TIMESTAMP", 0, 0),
  JSON_VALUE("JSON_VALUE", 2, 2),
  JSON_EXISTS("JSON_EXISTS", 2, 2),
  CARDINALITY("CARDINALITY", 1, 1),
  /** A list of values. */
  ARRAY("ARRAY", 1, Integer.MAX_VALUE);

  private final String sql;
  private final int least;
  private final int most;

  Operator(String sql, int least, int most) {
    this.sql = sql;
    this.least = least;
    this.most = most;
  }

  /** The SQL operator or the name of the SQL function. */
  public String sql() {
    return sql;
  }

  /** Whether it can be applied to so many arguments. */
  public boolean takes(int count) {
    return count >= least && count <= most;
  }

  /** How many arguments it takes, in words. */
  String count() {
    if (most == 0) {
      return "no arguments";
    }
    String number =
        most == Integer.MAX_VALUE
            ? "at least " + least
            : least == most ? String.valueOf(least) : least + " or " + most;
    return number + (most == 1 ? " argument" : " arguments");
  }
}
