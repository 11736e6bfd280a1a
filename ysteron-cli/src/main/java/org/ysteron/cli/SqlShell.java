package org.ysteron.cli;

import java.io.PrintWriter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.ysteron.LakeView;
import org.ysteron.data.Field;
import org.ysteron.data.Query;
import org.ysteron.data.Results;
import org.ysteron.data.Row;
import org.ysteron.error.InvalidInputException;
import org.ysteron.sql.SqlResult;
import org.ysteron.sql.SqlSession;

/**
 * Runs statements and the shell's own words, and prints what they give. For one thread at a time.
 */
final class SqlShell {
  private static final int CHECK_EVERY = 1000;
  private static final double NANOS = 1e9;

  /** The shell's own words, and what they do. */
  static final Map<String, String> WORDS = new LinkedHashMap<>();

  static {
    WORDS.put("help", "shows this list");
    WORDS.put("tables", "lists the tables");
    WORDS.put("columns TABLE", "lists the columns of a table");
    WORDS.put("schema NAMESPACE", "sets the namespace of tables whose names are given alone");
    WORDS.put("format text|csv|json", "sets how rows are printed");
    WORDS.put("timing on|off", "sets whether times are printed");
    WORDS.put("quit", "ends the shell");
  }

  private final SqlSession session;
  private final PrintWriter out;
  private Listing.Options listing;
  private boolean timing;

  SqlShell(SqlSession session, PrintWriter out, Listing.Options listing, boolean timing) {
    this.session = session;
    this.out = out;
    this.listing = listing;
    this.timing = timing;
  }

  PrintWriter out() {
    return out;
  }

  /** The lake as statements see it. */
  LakeView seen() {
    return session.seen();
  }

  boolean inTransaction() {
    return session.inTransaction();
  }

  /** Whether a line is one of the shell's own words, which need no semicolon. */
  static boolean isWord(String line) {
    String[] words = words(line);
    return WORDS.keySet().stream()
        .map(SqlShell::words)
        .anyMatch(known -> known[0].equals(words[0]) && known.length == words.length);
  }

  private static String[] words(String line) {
    return line.strip().replaceFirst(";$", "").strip().split("\\s+", -1);
  }

  /**
   * Runs a statement or a word of the shell.
   *
   * @return whether the shell goes on
   * @throws org.ysteron.error.YsteronException when it fails
   */
  boolean run(String text) {
    if (isWord(text)) {
      return word(words(text));
    }
    long start = System.nanoTime();
    SqlResult result = session.execute(text, List.of());
    long rows = -1;
    if (result instanceof SqlResult.Rows given) {
      rows = print(given.query());
    } else if (listing.isText()) {
      String what =
          result instanceof SqlResult.Changed changed
              ? changed.what()
              : ((SqlResult.Done) result).what();
      if (!what.isEmpty()) {
        out.println(what);
      }
    }
    if (timing) {
      double seconds = (System.nanoTime() - start) / NANOS;
      out.println(
          rows < 0
              ? String.format(Locale.ROOT, "%.3f s", seconds)
              : String.format(
                  Locale.ROOT, "%s, %.3f s", Listing.count(rows, "row", "rows"), seconds));
    }
    out.flush();
    return true;
  }

  private long print(Query query) {
    List<Field> columns = new ArrayList<>();
    for (int c = 0; c < query.labels().size(); c++) {
      columns.add(query.schema().columns().get(c).withName(query.labels().get(c)));
    }
    Listing list = listing.rows(out, columns);
    long printed = 0;
    try (Results<Row> rows = query.rows()) {
      for (Row row : rows) {
        list.row(row.values());
        if (++printed % CHECK_EVERY == 0 && out.checkError()) {
          return printed; // nobody reads any more, as with head
        }
      }
    }
    list.end();
    return printed;
  }

  private boolean word(String[] words) {
    switch (words[0]) {
      case "help" -> {
        WORDS.forEach((word, what) -> out.println("%-22s %s".formatted(word, what)));
        out.println("Everything else is SQL and ends with a semicolon.");
      }
      case "tables" -> {
        Listing list = listing.listing(out, "table", "rows");
        seen().tables().forEach(table -> list.row(table.name(), table.totals().rows()));
        list.end();
      }
      case "columns" -> columns(words[1]);
      case "schema" -> session.setSchema(Optional.of(words[1]));
      case "format" -> listing = format(words[1]);
      case "timing" -> timing = truth(words[1]);
      default -> {
        return false;
      }
    }
    out.flush();
    return true;
  }

  private void columns(String table) {
    String name =
        table.contains(".") ? table : session.schema().map(of -> of + "." + table).orElse(table);
    Listing list = listing.listing(out, "column", "type", "null", "comment");
    for (Field column : seen().table(name).schema().columns()) {
      list.row(
          column.name(),
          column.type().toString(),
          column.required() ? "no" : "yes",
          column.comment());
    }
    list.end();
  }

  private static Listing.Options format(String word) {
    return Listing.Options.of(word)
        .orElseThrow(
            () ->
                new InvalidInputException(
                    "The format is text, csv or json, not %s.".formatted(word)));
  }

  private static boolean truth(String word) {
    return switch (word) {
      case "on" -> true;
      case "off" -> false;
      default ->
          throw new InvalidInputException("Write timing on or timing off, not %s.".formatted(word));
    };
  }
}
