package org.ysteron.sql.text;

import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Limits;

/**
 * Looks at SQL text before it is parsed: some short texts would keep a parser busy for minutes.
 * Quoted names, texts and comments count as nothing.
 */
final class SqlBounds {
  private static final int MOST_DEPTH = 200;
  private static final int MOST_PREFIXES = 100;
  private static final int MOST_OPERATORS = 20_000;

  /** A name, a text, a comment, a word, white space, or another character. */
  static final Pattern TOKEN =
      Pattern.compile(
          "'[^']*+'|\"[^\"]*+\"|--[^\n]*+|/\\*(?:[^*]|\\*(?!/))*+\\*/|[\\w.]++|\\s++|.",
          Pattern.DOTALL);

  private SqlBounds() {}

  /** What is too much in a text; null when nothing is. */
  static @Nullable String exceeded(String text) {
    if (text.length() > Limits.STATEMENT) {
      return "has %d characters; the limit is %d".formatted(text.length(), Limits.STATEMENT);
    }
    int depth = 0;
    int prefixes = 0;
    int operators = 0;
    Matcher token = TOKEN.matcher(text);
    while (token.find()) {
      char first = token.group().charAt(0);
      int length = token.end() - token.start();
      boolean word = Character.isLetterOrDigit(first);
      boolean isNot = word && token.group().equalsIgnoreCase("NOT");
      boolean joins = word && token.group().matches("(?i)AND|OR");
      if (Character.isDigit(first) && length > 2 * Decimals.MOST_DIGITS) {
        return "has a number of %d digits; the limit is %d".formatted(length, Decimals.MOST_DIGITS);
      }
      if (Character.isWhitespace(first)) {
        continue;
      }
      depth += first == '(' ? 1 : first == ')' ? -1 : 0;
      boolean prefix = isNot || first == '+' || (first == '-' && length == 1);
      prefixes = prefix ? prefixes + 1 : 0;
      boolean operator = length == 1 && "*/<>=|".indexOf(first) >= 0;
      operators += joins || prefix || operator ? 1 : 0;
      if (depth > MOST_DEPTH || prefixes > MOST_PREFIXES) {
        return "is nested too deep";
      }
      if (operators > MOST_OPERATORS) {
        return "has more than %d operators".formatted(MOST_OPERATORS);
      }
    }
    return null;
  }
}
