package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;

/**
 * Turns the actions of ALTER TABLE into {@link Alteration}s, several joined by commas:
 *
 * <pre>
 * ADD [COLUMN] path type [NOT NULL] [DEFAULT value] [COMMENT 'text'] [FIRST | AFTER name | BEFORE name]
 * DROP [COLUMN] path
 * ALTER [COLUMN] path SET DATA TYPE type | SET DEFAULT value | DROP DEFAULT | SET NOT NULL | DROP NOT NULL
 * ADD [CONSTRAINT name] CHECK (condition) | ADD [CONSTRAINT name] PRIMARY KEY (columns)
 * DROP CONSTRAINT name | DROP PRIMARY KEY
 * RENAME [COLUMN] path TO name
 * MOVE [COLUMN] path FIRST | LAST | AFTER name | BEFORE name
 * ALTER [COLUMN] path SET COMMENT 'text' | DROP COMMENT
 * </pre>
 *
 * The first five lines are those of ISO/IEC 9075-2, with paths for columns; for the others it has
 * no form. Definitions, types, values and conditions are parsed by the SQL library.
 */
public final class SqlAlter {
  private final SqlTokens tokens;
  private final FormEditor editor;
  private final List<Alteration> alterations = new ArrayList<>();

  private SqlAlter(String actions, TableForm form) {
    this.tokens = new SqlTokens(actions);
    this.editor = new FormEditor(form, TableNumbers.of(form));
  }

  /**
   * Parses actions and checks that they fit the table, one after the other.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static List<Alteration> parse(String actions, TableView table) {
    TableForm form =
        new TableForm(
            table.schema(),
            table.checks(),
            table.leftoversColumn().map(Field::id).orElse(0),
            table.schemaVersion(),
            LayoutText.bind(table.layout(), table.schema()),
            table.layoutVersion());
    return parse(actions, form);
  }

  static List<Alteration> parse(String actions, TableForm form) {
    return new SqlAlter(actions, form).parse();
  }

  private List<Alteration> parse() {
    do {
      int start = tokens.mark();
      Alteration alteration = action();
      try {
        editor.apply(alteration);
      } catch (YsteronException e) {
        throw tokens.wrong(e.getMessage(), start, e);
      }
      alterations.add(alteration);
    } while (tokens.take(","));
    if (!tokens.isAtEnd()) {
      throw tokens.wrong("The action ends before this; actions are joined by commas.");
    }
    return alterations;
  }

  private Schema schema() {
    return editor.form().schema();
  }

  private Alteration action() {
    if (tokens.take("ADD")) {
      return add();
    }
    if (tokens.take("DROP")) {
      return drop();
    }
    if (tokens.take("ALTER")) {
      tokens.take("COLUMN");
      return alter(path());
    }
    if (tokens.take("RENAME")) {
      tokens.take("COLUMN");
      String path = path();
      tokens.expect("TO");
      return new Alteration.RenameColumn(path, tokens.name());
    }
    if (tokens.take("MOVE")) {
      tokens.take("COLUMN");
      String path = path();
      return new Alteration.MoveColumn(
          path,
          place()
              .orElseThrow(() -> tokens.wrong("FIRST, LAST, AFTER or BEFORE is expected here.")));
    }
    throw tokens.wrong("ADD, DROP, ALTER, RENAME or MOVE is expected here.");
  }

  private String path() {
    List<String> names = new ArrayList<>();
    do {
      names.add(tokens.name());
    } while (tokens.take("."));
    return Schema.path(names);
  }

  private Alteration add() {
    boolean named = tokens.take("CONSTRAINT");
    String name = named ? tokens.name() : "";
    if (tokens.take("CHECK")) {
      int start = tokens.mark();
      String text = tokens.inParentheses();
      Condition condition;
      try {
        condition = SqlCondition.parse(text, schema());
      } catch (SqlTextException e) {
        throw tokens.wrong(e.getMessage(), start, e);
      }
      return new Alteration.AddCheck(named ? name : freeName(), condition);
    }
    if (tokens.take("PRIMARY", "KEY")) {
      tokens.expect("(");
      List<String> columns = new ArrayList<>();
      do {
        columns.add(tokens.name());
      } while (tokens.take(","));
      tokens.expect(")");
      return new Alteration.SetKey(columns);
    }
    if (named) {
      throw tokens.wrong("CHECK or PRIMARY KEY is expected here.");
    }
    tokens.take("COLUMN");
    String path = path();
    List<String> names = Schema.parsePath(path);
    String own = names.get(names.size() - 1);
    int start = tokens.mark();
    String definition = tokens.upTo("FIRST", "LAST", "AFTER", "BEFORE", "COMMENT");
    Field field;
    try {
      String quoted = '"' + own.replace("\"", "\"\"") + '"';
      field = SqlColumns.parse(quoted + " " + definition).columns().get(0).withName(own);
    } catch (SqlTextException e) {
      throw tokens.wrong(e.reason(), start, e);
    }
    Optional<Place> place = place();
    if (tokens.take("COMMENT")) {
      field = field.withComment(tokens.string());
      place = place.or(this::place);
    }
    String parent = Schema.path(names.subList(0, names.size() - 1));
    return new Alteration.AddColumn(parent, field, place.orElse(Place.LAST));
  }

  private String freeName() {
    int number = 1;
    while (editor.form().check("check" + number).isPresent()) {
      number++;
    }
    return "check" + number;
  }

  private Optional<Place> place() {
    if (tokens.take("FIRST")) {
      return Optional.of(Place.FIRST);
    }
    if (tokens.take("LAST")) {
      return Optional.of(Place.LAST);
    }
    if (tokens.take("AFTER")) {
      return Optional.of(Place.after(tokens.name()));
    }
    return tokens.take("BEFORE") ? Optional.of(Place.before(tokens.name())) : Optional.empty();
  }

  private Alteration drop() {
    if (tokens.take("CONSTRAINT")) {
      return new Alteration.DropCheck(tokens.name());
    }
    if (tokens.take("PRIMARY", "KEY")) {
      return new Alteration.SetKey(List.of());
    }
    tokens.take("COLUMN");
    Alteration dropped = new Alteration.DropColumn(path());
    if (tokens.take("CASCADE")) {
      throw tokens.wrong(
          "CASCADE and RESTRICT are not supported. Drop the checks of the column first.");
    }
    tokens.take("RESTRICT");
    return dropped;
  }

  private Alteration alter(String path) {
    if (tokens.take("DROP", "DEFAULT")) {
      return new Alteration.SetDefault(path, Optional.empty());
    }
    if (tokens.take("DROP", "NOT", "NULL")) {
      return new Alteration.SetRequired(path, false);
    }
    if (tokens.take("DROP", "COMMENT")) {
      return new Alteration.SetComment(path, "");
    }
    if (tokens.take("SET", "NOT", "NULL")) {
      return new Alteration.SetRequired(path, true);
    }
    if (tokens.take("SET", "COMMENT")) {
      return new Alteration.SetComment(path, tokens.string());
    }
    int start = tokens.mark();
    if (tokens.take("SET", "DATA", "TYPE")) {
      return new Alteration.WidenColumn(path, definition("x " + tokens.upTo(), start).type());
    }
    if (tokens.take("SET", "DEFAULT")) {
      Type type = found(path, start).type();
      String value = tokens.upTo();
      Field parsed = definition("x " + type + " DEFAULT " + value, start);
      return new Alteration.SetDefault(path, Optional.ofNullable(parsed.standard()));
    }
    throw tokens.wrong(
        "SET DATA TYPE, SET DEFAULT, SET NOT NULL, SET COMMENT, DROP DEFAULT, DROP NOT NULL or DROP COMMENT is expected here.");
  }

  private Field found(String path, int at) {
    try {
      return schema().find(path);
    } catch (YsteronException e) {
      throw tokens.wrong(e.getMessage(), at, e);
    }
  }

  private Field definition(String text, int at) {
    try {
      return SqlColumns.parse(text).columns().get(0);
    } catch (SqlTextException e) {
      throw tokens.wrong(e.reason(), at, e);
    }
  }
}
