package org.ysteron.sql.text;

import java.io.StringReader;
import java.util.ArrayList;
import java.util.List;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.sql.grammar.LakeSqlParserConstants;
import org.ysteron.sql.grammar.LakeSqlParserTokenManager;
import org.ysteron.sql.grammar.SimpleCharStream;
import org.ysteron.sql.grammar.Token;
import org.ysteron.sql.grammar.TokenMgrError;

/**
 * The tokens of an SQL text, as the SQL library's parser has them, to be read one after the other.
 * What the library parses as a whole is taken as text. For one thread.
 */
final class SqlTokens {
  private final String source;
  private final SqlText text;
  private final List<Token> tokens = new ArrayList<>();
  private int at;

  SqlTokens(String source) {
    this.source = source;
    this.text = new SqlText(source, 0);
    SimpleCharStream characters = new SimpleCharStream(new StringReader(source));
    LakeSqlParserTokenManager manager = new LakeSqlParserTokenManager(characters);
    manager.SwitchTo(LakeSqlParserConstants.DQID);
    try {
      Token token = manager.getNextToken();
      while (token.kind != LakeSqlParserConstants.EOF) {
        tokens.add(token);
        token = manager.getNextToken();
      }
    } catch (TokenMgrError e) {
      throw text.wrong("The SQL text is wrong: " + e.getMessage() + ".", SqlParserPos.ZERO, e);
    }
  }

  boolean isAtEnd() {
    return at == tokens.size();
  }

  /** Whether the next token is a word, in any case. */
  boolean is(String word) {
    return !isAtEnd() && tokens.get(at).image.equalsIgnoreCase(word);
  }

  /** Takes some words when they are next. */
  boolean take(String... words) {
    for (int i = 0; i < words.length; i++) {
      boolean there = at + i < tokens.size() && tokens.get(at + i).image.equalsIgnoreCase(words[i]);
      if (!there) {
        return false;
      }
    }
    at += words.length;
    return true;
  }

  void expect(String word) {
    if (!take(word)) {
      throw wrong(word + " is expected here.");
    }
  }

  /** The next token as a name. */
  String name() {
    if (isAtEnd()) {
      throw wrong("A name is expected here.");
    }
    Token token = tokens.get(at++);
    String image = token.image;
    if (token.kind == LakeSqlParserConstants.QUOTED_IDENTIFIER) {
      return image.substring(1, image.length() - 1).replace("\"\"", "\"");
    }
    if (!Character.isUnicodeIdentifierStart(image.codePointAt(0)) && image.charAt(0) != '_') {
      at--;
      throw wrong("A name is expected here.");
    }
    return image;
  }

  /** The next token as text in quotes. */
  String string() {
    if (isAtEnd() || tokens.get(at).kind != LakeSqlParserConstants.QUOTED_STRING) {
      throw wrong("A text in single quotes is expected here.");
    }
    String image = tokens.get(at++).image;
    return image.substring(1, image.length() - 1).replace("''", "'");
  }

  /** A point in the text to come back to. */
  int mark() {
    return at;
  }

  /**
   * The text up to a comma or a word outside parentheses, or the end.
   *
   * @param words in capital letters
   */
  String upTo(String... words) {
    int from = at;
    int depth = 0;
    while (!isAtEnd()) {
      String image = tokens.get(at).image;
      boolean ends =
          image.equals(",") || List.of(words).contains(image.toUpperCase(java.util.Locale.ROOT));
      if (depth == 0 && ends) {
        break;
      }
      boolean opens = image.equals("(") || image.equals("<");
      boolean closes = image.equals(")") || image.equals(">");
      depth += opens ? 1 : closes ? -1 : 0;
      if (depth < 0) {
        break;
      }
      at++;
    }
    if (from == at) {
      throw wrong("Something is missing here.");
    }
    return source.substring(start(from), end(at - 1));
  }

  /** The text up to a word outside parentheses, or the end. */
  String before(String word) {
    int from = at;
    int depth = 0;
    while (!isAtEnd() && !(depth == 0 && is(word))) {
      depth += is("(") ? 1 : is(")") ? -1 : 0;
      at++;
    }
    if (from == at) {
      throw wrong("Something is missing here.");
    }
    return source.substring(start(from), end(at - 1));
  }

  /** The text in the parentheses that are next. */
  String inParentheses() {
    if (!is("(")) {
      throw wrong("( is expected here.");
    }
    int from = at;
    int depth = 0;
    do {
      if (isAtEnd()) {
        throw wrong(") is expected here.");
      }
      depth += is("(") ? 1 : is(")") ? -1 : 0;
      at++;
    } while (depth > 0);
    return source.substring(end(from), start(at - 1));
  }

  private int start(int token) {
    return offset(tokens.get(token).beginLine, tokens.get(token).beginColumn) - 1;
  }

  private int end(int token) {
    return offset(tokens.get(token).endLine, tokens.get(token).endColumn);
  }

  private int offset(int line, int column) {
    int offset = 0;
    for (int i = 1; i < line; i++) {
      offset = source.indexOf('\n', offset) + 1;
    }
    return offset + column;
  }

  /** An error at the next token. */
  SqlTextException wrong(String what) {
    return wrong(what, at, null);
  }

  /** An error at a mark. */
  SqlTextException wrong(String what, int mark, @Nullable Throwable cause) {
    Token token = tokens.isEmpty() ? null : tokens.get(Math.min(mark, tokens.size() - 1));
    boolean behind = mark >= tokens.size();
    SqlParserPos position =
        token == null
            ? new SqlParserPos(1, 1)
            : behind
                ? new SqlParserPos(token.endLine, token.endColumn + 1)
                : new SqlParserPos(token.beginLine, token.beginColumn);
    return text.wrong(what, position, cause);
  }
}
