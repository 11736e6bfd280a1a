package org.ysteron.cli;

import java.util.List;
import java.util.Locale;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jline.reader.Candidate;
import org.jline.reader.Completer;
import org.jline.reader.LineReader;
import org.jline.reader.ParsedLine;
import org.ysteron.LakeView;
import org.ysteron.data.Field;
import org.ysteron.error.YsteronException;
import org.ysteron.report.TableInfo;
import org.ysteron.sql.procedure.Procedures;

/** Completes words of SQL and of the shell, and names of tables, columns and procedures. */
final class ShellCompleter implements Completer {
  private static final List<String> KEYWORDS =
      List.of(
          ("ALL ALTER AND AS ASC BETWEEN BY CALL CASE CAST COLUMN COMMENT COMMIT CREATE CROSS"
                  + " CURRENT_TIMESTAMP DEFAULT DELETE DESC DISTINCT DROP ELSE END EXCEPT EXISTS"
                  + " EXPLAIN EXTRACT FETCH FIRST FROM FULL GROUP HAVING IN INNER INSERT INTERSECT"
                  + " INTERVAL INTO IS JOIN LAYOUT LEFT LIKE LIMIT MATCHED MERGE NOT NULL ON ORDER"
                  + " OVER PARTITION PRIMARY KEY RENAME RIGHT ROLLBACK SELECT SET START TABLE THEN"
                  + " TRANSACTION TRUNCATE UNION UNNEST UPDATE USING VALUES WHEN WHERE WITH ABS AVG"
                  + " CHAR_LENGTH COALESCE COUNT LOWER MAX MIN NULLIF POSITION ROUND SUBSTRING SUM"
                  + " TRIM UPPER")
              .split(" ", -1));

  private final SqlShell shell;

  ShellCompleter(SqlShell shell) {
    this.shell = shell;
  }

  @Override
  public void complete(LineReader reader, ParsedLine line, List<Candidate> candidates) {
    String typed = line.word().substring(0, line.wordCursor());
    for (String word : words(line.line())) {
      if (word.toLowerCase(Locale.ROOT).startsWith(typed.toLowerCase(Locale.ROOT))) {
        candidates.add(new Candidate(word));
      }
    }
  }

  /** All words that may be meant in a text, which names tables. */
  List<String> words(String text) {
    TreeSet<String> words = new TreeSet<>(KEYWORDS);
    SqlShell.WORDS.keySet().forEach(word -> words.add(word.replaceFirst(" .*", "")));
    words.addAll(Procedures.forms().keySet());
    try {
      LakeView lake = shell.seen();
      for (TableInfo table : lake.tables()) {
        words.add(table.name());
        String own = table.name().substring(table.name().indexOf('.') + 1);
        if (text.contains(own)) {
          lake.table(table.name()).schema().columns().stream()
              .map(Field::name)
              .flatMap(name -> Stream.of(name, own + "." + name))
              .forEach(words::add);
        }
      }
    } catch (YsteronException e) {
      return List.copyOf(words); // what cannot be read has no names
    }
    return List.copyOf(words);
  }
}
