package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOperator;
import org.jspecify.annotations.Nullable;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.Check;
import org.ysteron.option.TableSettings;
import org.ysteron.sql.grammar.LakeOperators;

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
 * LAYOUT (rules) | LAYOUT NONE | DROP LAYOUT
 * OPTIONS ([SET | ADD] name 'value', DROP name)
 * </pre>
 *
 * The first five lines are those of ISO/IEC 9075-2, with paths for columns, and the last is that of
 * ISO/IEC 9075-9; for the others they have no form.
 */
public final class SqlAlter {
  private static final String BEFORE = "ALTER TABLE t\n";

  private final SqlText text;
  private final FormEditor editor;
  private final List<Alteration> alterations = new ArrayList<>();

  private SqlAlter(SqlText text, TableForm form) {
    this.text = text;
    this.editor = new FormEditor(form, TableNumbers.of(form));
  }

  /**
   * Parses actions and checks that they fit the table, one after the other.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static List<Alteration> parse(String actions, TableView table) {
    return parse(actions, form(table));
  }

  private static TableForm form(TableView table) {
    return new TableForm(
        table.schema(),
        table.checks(),
        table.leftoversColumn().map(Field::id).orElse(0),
        table.schemaVersion(),
        LayoutText.bind(table.layout(), table.schema()),
        table.layoutVersion());
  }

  static List<Alteration> parse(String actions, TableForm form) {
    SqlText text = new SqlText(actions, 1);
    SqlNode parsed = text.statement(BEFORE + actions);
    if (!(SqlNodes.operand(parsed, LakeOperators.ALTER_TABLE, 1) instanceof SqlNodeList given)) {
      throw text.wrong("These are no actions of ALTER TABLE.", parsed.getParserPosition(), null);
    }
    return of(given, text, form);
  }

  /**
   * The alterations that parsed actions are, which have to fit the table, one after the other.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static List<Alteration> of(SqlNodeList actions, SqlText text, TableView table) {
    return of(actions, text, form(table));
  }

  private static List<Alteration> of(SqlNodeList actions, SqlText text, TableForm form) {
    return text.bounded(() -> new SqlAlter(text, form).all(actions));
  }

  private List<Alteration> all(SqlNodeList actions) {
    for (SqlNode node : actions) {
      SqlCall action = (SqlCall) node;
      for (Alteration alteration : alterations(action)) {
        try {
          if (!(alteration instanceof Alteration.SetSetting)) {
            editor.apply(alteration);
          }
        } catch (YsteronException e) {
          throw wrong(e, place(action, alteration));
        }
        alterations.add(alteration);
      }
    }
    return alterations;
  }

  /** What of an action is wrong when it cannot be done. */
  private static SqlNode place(SqlCall action, Alteration alteration) {
    boolean isOfValue =
        alteration instanceof Alteration.WidenColumn || alteration instanceof Alteration.SetDefault;
    return isOfValue && action.operand(1) != null ? action.operand(1) : action;
  }

  private SqlTextException wrong(YsteronException e, SqlNode at) {
    return e instanceof SqlTextException told
        ? told
        : text.wrong(e.getMessage(), at.getParserPosition(), e);
  }

  private Schema schema() {
    return editor.form().schema();
  }

  private static boolean is(SqlCall call, SqlOperator operator) {
    return call.getOperator().equals(operator);
  }

  private static String path(SqlIdentifier path) {
    return Schema.path(path.names);
  }

  private static String name(SqlNode name) {
    return ((SqlIdentifier) name).getSimple();
  }

  private List<Alteration> alterations(SqlCall action) {
    if (is(action, LakeOperators.ADD)) {
      return added(action.operand(0), action.operand(1));
    }
    if (is(action, LakeOperators.OPTIONS)) {
      return options(action.operand(0));
    }
    if (is(action, LakeOperators.LAYOUT)) {
      return List.of(new Alteration.SetLayout(SqlLayout.of(action, text)));
    }
    if (is(action, LakeOperators.DROP_CONSTRAINT)) {
      return List.of(new Alteration.DropCheck(name(action.operand(0))));
    }
    if (is(action, LakeOperators.DROP_KEY)) {
      return List.of(new Alteration.SetKey(List.of()));
    }
    if (is(action, LakeOperators.RENAME_TABLE)) {
      throw text.wrong(
          "A table gets another name in a statement of its own, without other actions.",
          action.getParserPosition(),
          null);
    }
    return List.of(ofColumn(action));
  }

  private Alteration ofColumn(SqlCall action) {
    String path = path(action.operand(0));
    SqlNode other = action.operandCount() > 1 ? action.operand(1) : null;
    if (is(action, LakeOperators.DROP_COLUMN)) {
      if (other != null) {
        throw text.wrong(
            "CASCADE and RESTRICT are not supported. Drop the checks of the column first.",
            other.getParserPosition(),
            null);
      }
      return new Alteration.DropColumn(path);
    }
    if (is(action, LakeOperators.RENAME_COLUMN)) {
      return new Alteration.RenameColumn(path, name(action.operand(1)));
    }
    if (is(action, LakeOperators.MOVE_COLUMN)) {
      return new Alteration.MoveColumn(path, place(action.operand(1)));
    }
    if (is(action, LakeOperators.SET_TYPE)) {
      SqlDataTypeSpec spec = action.operand(1);
      return new Alteration.WidenColumn(path, SqlColumns.type(spec, text));
    }
    if (is(action, LakeOperators.SET_DEFAULT)) {
      return new Alteration.SetDefault(path, standard(path, other));
    }
    if (is(action, LakeOperators.SET_COMMENT)) {
      return new Alteration.SetComment(path, other == null ? "" : SqlNodes.string(other));
    }
    return new Alteration.SetRequired(path, is(action, LakeOperators.SET_NOT_NULL));
  }

  private Optional<Object> standard(String path, @Nullable SqlNode value) {
    if (value == null) {
      return Optional.empty();
    }
    try {
      Type type = schema().find(path).type();
      return Optional.ofNullable(SqlColumns.standard(value, type, text));
    } catch (YsteronException e) {
      throw wrong(e, value);
    }
  }

  private List<Alteration> added(SqlCall what, @Nullable SqlCall place) {
    if (is(what, LakeOperators.CHECK)) {
      return List.of(check(what));
    }
    if (is(what, LakeOperators.PRIMARY_KEY)) {
      List<String> columns = new ArrayList<>();
      ((SqlNodeList) what.operand(1)).forEach(column -> columns.add(name(column)));
      return List.of(new Alteration.SetKey(columns));
    }
    if (is(what, LakeOperators.UNIQUE)) {
      throw text.wrong(
          "Tables have no UNIQUE constraints. Use PRIMARY KEY.", what.getParserPosition(), null);
    }
    SqlColumns.Defined defined = SqlColumns.column(what, text);
    if (defined.isKey() || !defined.checks().isEmpty()) {
      throw text.wrong(
          "A column is added without constraints. Add them in an action of their own behind it: ADD CHECK (…), ADD PRIMARY KEY (…).",
          what.getParserPosition(),
          null);
    }
    List<String> names = defined.path().names;
    String parent = Schema.path(names.subList(0, names.size() - 1));
    return List.of(
        new Alteration.AddColumn(
            parent, defined.field(), place == null ? Place.LAST : place(place)));
  }

  private Alteration check(SqlCall check) {
    Set<String> taken = new HashSet<>();
    editor.form().checks().stream().map(Check::name).forEach(taken::add);
    SqlNode given = check.operand(0);
    String name = given == null ? SqlColumns.free(taken) : name(given);
    return new Alteration.AddCheck(name, SqlCondition.of(check.operand(1), text, schema()));
  }

  private static Place place(SqlCall place) {
    if (is(place, LakeOperators.FIRST)) {
      return Place.FIRST;
    }
    if (is(place, LakeOperators.LAST)) {
      return Place.LAST;
    }
    String sibling = name(place.operand(0));
    return is(place, LakeOperators.AFTER) ? Place.after(sibling) : Place.before(sibling);
  }

  private List<Alteration> options(SqlNodeList options) {
    List<Alteration> changed = new ArrayList<>();
    SqlLayout.options(options, text)
        .forEach(
            (name, value) ->
                changed.add(
                    new Alteration.SetSetting(
                        name, value.orElseGet(() -> TableSettings.DEFAULTS.value(name)))));
    return changed;
  }
}
