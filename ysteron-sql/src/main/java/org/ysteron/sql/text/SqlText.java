package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Supplier;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.apache.calcite.avatica.util.Casing;
import org.apache.calcite.avatica.util.Quoting;
import org.apache.calcite.runtime.CalciteContextException;
import org.apache.calcite.runtime.CalciteException;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.parser.SqlParseException;
import org.apache.calcite.sql.parser.SqlParser;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.apache.calcite.sql.validate.SqlConformanceEnum;
import org.jspecify.annotations.Nullable;
import org.ysteron.sql.grammar.LakeSqlParser;

/** Parses text and tells where it is wrong. For one thread. */
public final class SqlText {
  private static final SqlParser.Config CONFIG =
      SqlParser.config()
          .withParserFactory(LakeSqlParser.FACTORY)
          .withQuoting(Quoting.DOUBLE_QUOTE)
          .withQuotedCasing(Casing.UNCHANGED)
          .withUnquotedCasing(Casing.UNCHANGED)
          .withIdentifierMaxLength(255)
          .withConformance(SqlConformanceEnum.STRICT_2003);

  /** As ISO has it, and with names of the result in ORDER BY, LIMIT, and FROM left out. */
  private static final SqlParser.Config QUERIES =
      CONFIG.withConformance(SqlConformanceEnum.DEFAULT);

  /** A word as the parser shows it when it is a keyword: its token and its text. */
  private static final Pattern KEYWORD = Pattern.compile("\" \"\\w+\" \"(\\w+) \"\"");

  /** A token as the parser shows it: its kind and its text. */
  private static final Pattern TOKEN = Pattern.compile("\" (?:<[A-Z_]+>|\"[^ ]*\") \"(.*?) \"\"");

  private static final Pattern WORD_BEHIND_DOT = Pattern.compile("\\.\\s*([A-Za-z_]\\w*)");
  private static final int MOST_EXPECTED = 8;

  private static final Pattern UNEXPECTED_WORD =
      Pattern.compile("Encountered \"([A-Za-z_]\\w*)[ \"]");

  private final String text;
  private final int linesBefore;

  /** {@code linesBefore}: lines that are put before the text to make a statement of it. */
  public SqlText(String text, int linesBefore) {
    this.text = text;
    this.linesBefore = linesBefore;
  }

  SqlNode expression() {
    return parsed(() -> SqlParser.create(text, CONFIG).parseExpression());
  }

  /** The statements of the text, which semicolons part. */
  public List<SqlNode> statements() {
    List<SqlNode> statements = new ArrayList<>();
    if (!text.isBlank()) {
      parsed(() -> SqlParser.create(text, QUERIES).parseStmtList()).forEach(statements::add);
    }
    return statements;
  }

  private interface Parsing<T> {
    T parse() throws SqlParseException;
  }

  private <T> T parsed(Parsing<T> parsing) {
    String exceeded = SqlBounds.exceeded(text);
    if (exceeded != null) {
      throw new SqlTextException("The SQL text " + exceeded + ".", text, 1, 1, null);
    }
    return bounded(
        () -> {
          try {
            return parsing.parse();
          } catch (SqlParseException e) {
            throw wrong(e);
          } catch (CalciteException e) {
            throw new SqlTextException(
                "The SQL text is wrong: " + e.getMessage() + ".", text, 1, 1, e);
          }
        });
  }

  /** Does something with the text that goes as deep as the text nests. */
  public <T> T bounded(Supplier<T> work) {
    try {
      return work.get();
    } catch (StackOverflowError e) {
      throw new SqlTextException("The SQL text is nested too deep.", text, 1, 1, null);
    }
  }

  /** The text of a parsed node, as it is written. */
  public String raw(SqlParserPos at) {
    return text.substring(
        offset(at.getLineNum(), at.getColumnNum()) - 1,
        offset(at.getEndLineNum(), at.getEndColumnNum()));
  }

  private int offset(int line, int column) {
    int offset = 0;
    for (int i = 1; i < line - linesBefore; i++) {
      offset = text.indexOf('\n', offset) + 1;
    }
    return offset + column;
  }

  /** Parses a statement that has this text in it. */
  SqlNode statement(String whole) {
    return parsed(() -> SqlParser.create(whole, CONFIG).parseStmt());
  }

  /** A word of SQL behind a dot is met as the dot: nothing that begins with it is a name. */
  private String behindDot(String message, @Nullable SqlParserPos at) {
    String[] lines = text.split("\n", -1);
    int line = at == null ? 0 : at.getLineNum() - linesBefore;
    if (!message.contains("Encountered \".\"") || at == null || line < 1 || line > lines.length) {
      return "";
    }
    Matcher word = WORD_BEHIND_DOT.matcher(lines[line - 1]);
    return word.find(Math.max(0, at.getColumnNum() - 1))
        ? " If %s is a name, write it in double quotes.".formatted(word.group(1))
        : "";
  }

  /** What could stand there, if that is not much. */
  private static String expected(SqlParseException e) {
    List<String> tokens =
        e.getExpectedTokenNames() == null
            ? List.of()
            : e.getExpectedTokenNames().stream()
                .map(token -> token.replaceAll("^\"|\"$", ""))
                .filter(token -> !token.isBlank() && !token.equals(".") && !token.startsWith("<"))
                .sorted()
                .distinct()
                .toList();
    boolean someHaveNoText =
        e.getExpectedTokenNames() != null
            && e.getExpectedTokenNames().stream()
                .anyMatch(token -> token.startsWith("<") && !token.equals("<EOF>"));
    return tokens.isEmpty() || someHaveNoText || tokens.size() > MOST_EXPECTED
        ? ""
        : " Expected: " + String.join(" ", tokens) + ".";
  }

  private SqlTextException wrong(SqlParseException e) {
    SqlParserPos at = e.getPos();
    String message = e.getMessage() == null ? "cannot be parsed" : e.getMessage();
    String first = message.lines().findFirst().orElse(message);
    // The parser repeats the position, counted in the whole statement; ours is shown below.
    first = first.replaceFirst(" at line \\d+, column \\d+", "");
    boolean isWord = KEYWORD.matcher(first).find();
    first = KEYWORD.matcher(first).replaceFirst("\"$1\"");
    first = TOKEN.matcher(first).replaceFirst("\"$1\"");
    if (first.contains("\"\\'\"")) {
      first = "a text begins here and does not end";
    } else if (first.startsWith("Non-query expression")) {
      first =
          "this is no statement. One begins with a word such as SELECT, INSERT, UPDATE, DELETE, MERGE, CREATE, ALTER, DROP, CALL, START TRANSACTION or EXPLAIN";
    }
    first = first.endsWith(".") ? first : first + ".";
    first += first.startsWith("Encountered") || first.contains(": Encountered") ? expected(e) : "";
    Matcher word = UNEXPECTED_WORD.matcher(first);
    if (isWord && word.find()) {
      first += " If %s is a name, write it in double quotes.".formatted(word.group(1));
    }
    first += behindDot(first, at);
    int lines = text.split("\n", -1).length;
    int line = at == null ? 1 : at.getLineNum() - linesBefore;
    if (message.contains("Encountered \"<EOF>\"") && line <= lines) {
      return new SqlTextException(
          "The SQL text ends too early." + expected(e), text, lines, end(), e);
    }
    if (line > lines) {
      return new SqlTextException(
          "The SQL text ends too early or has one closing parenthesis too many.",
          text,
          lines,
          end(),
          e);
    }
    return new SqlTextException(
        "The SQL text is wrong: " + first, text, line, at == null ? 1 : at.getColumnNum(), e);
  }

  /** Behind the last character of the last line. */
  private int end() {
    return text.length() - text.lastIndexOf('\n');
  }

  /** The texts between the semicolons of a text, but for those that are empty. */
  public static List<String> statements(String script) {
    List<String> statements = new ArrayList<>();
    int start = 0;
    Matcher token = SqlBounds.TOKEN.matcher(script);
    boolean isEmpty = true;
    while (token.find()) {
      String text = token.group();
      if (text.equals(";")) {
        if (!isEmpty) {
          statements.add(script.substring(start, token.start()));
        }
        start = token.end();
        isEmpty = true;
      } else {
        isEmpty &= text.isBlank() || text.startsWith("--") || text.startsWith("/*");
      }
    }
    if (!isEmpty) {
      statements.add(script.substring(start));
    }
    return statements;
  }

  /** Whether a text ends with a semicolon, and not within a text in quotes or a comment. */
  public static boolean isComplete(String text) {
    boolean ends = false;
    Matcher token = SqlBounds.TOKEN.matcher(text);
    while (token.find()) {
      String found = token.group();
      if (found.equals("'") || found.equals("\"")) {
        return false; // it begins and does not end
      }
      boolean isNothing = found.isBlank() || found.startsWith("--") || found.startsWith("/*");
      ends = isNothing ? ends : found.equals(";");
    }
    return ends;
  }

  /** How many question marks stand for parameters. */
  public static int parameters(String text) {
    int count = 0;
    Matcher token = SqlBounds.TOKEN.matcher(text);
    while (token.find()) {
      count += token.group().equals("?") ? 1 : 0;
    }
    return count;
  }

  /** Whether a word is in the text, in any case. */
  public boolean mentions(String word) {
    return Pattern.compile("(?i)\\b" + Pattern.quote(word) + "\\b").matcher(text).find();
  }

  /** The text of a parsed node, with single spaces. */
  public String of(SqlParserPos at) {
    String[] lines = text.split("\n", -1);
    int from = at.getLineNum() - linesBefore;
    int to = at.getEndLineNum() - linesBefore;
    if (from < 1 || to > lines.length || at.getEndColumnNum() > lines[to - 1].length()) {
      return "";
    }
    StringBuilder found = new StringBuilder();
    for (int line = from; line <= to; line++) {
      int start = line == from ? at.getColumnNum() - 1 : 0;
      int end = line == to ? at.getEndColumnNum() : lines[line - 1].length();
      found.append(lines[line - 1], start, Math.max(start, end)).append(' ');
    }
    return found.toString().strip().replaceAll("\\s+", " ");
  }

  /** What the planner does not accept, at its place; {@code hint}: what follows, or nothing. */
  public SqlTextException wrong(CalciteContextException e, String hint) {
    Throwable cause = e.getCause() == null ? e : e.getCause();
    String what = cause.getMessage() == null ? "cannot be planned" : cause.getMessage();
    return new SqlTextException(
        "The SQL text is wrong: " + what + (what.endsWith(".") ? "" : ".") + hint,
        text,
        e.getPosLine() - linesBefore,
        e.getPosColumn(),
        e);
  }

  /** An error at a place of a parsed node. */
  public SqlTextException wrong(String what, SqlParserPos at, @Nullable Throwable cause) {
    return new SqlTextException(
        what, text, at.getLineNum() - linesBefore, at.getColumnNum(), cause);
  }
}
