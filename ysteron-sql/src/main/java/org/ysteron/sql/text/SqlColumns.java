package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.apache.calcite.sql.SqlBasicTypeNameSpec;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlCollectionTypeNameSpec;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlMapTypeNameSpec;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlOperator;
import org.apache.calcite.sql.SqlRowTypeNameSpec;
import org.apache.calcite.sql.SqlTypeNameSpec;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Expression;
import org.ysteron.option.Check;
import org.ysteron.sql.grammar.LakeOperators;

/**
 * Turns SQL column definitions into a {@link Schema}: {@code gauge_id VARCHAR(12) NOT NULL,
 * level_cm DECIMAL(7, 1) DEFAULT 0 COMMENT 'above chart datum', PRIMARY KEY (gauge_id)}.
 */
public final class SqlColumns {
  private static final String BEFORE = "CREATE TABLE t (\n";
  private static final int ELEMENTS = 2;

  private final SqlText text;

  private SqlColumns(SqlText text) {
    this.text = text;
  }

  /**
   * The columns and constraints of a table.
   *
   * @param schema with the primary key
   * @param checks its check constraints
   */
  public record Table(Schema schema, List<Check> checks) {}

  /**
   * A column definition.
   *
   * @param path its names; of a field inside structs those of the structs first
   * @param isKey whether it is the primary key
   * @param checks CHECK constraints that stand with it
   */
  record Defined(SqlIdentifier path, Field field, boolean isKey, List<SqlCall> checks) {}

  /** The type that a parsed specification names. */
  static Type type(SqlDataTypeSpec spec, SqlText text) {
    return new SqlColumns(text).type(spec);
  }

  /** The column that a parsed definition is of. */
  static Defined column(SqlCall definition, SqlText text) {
    return new SqlColumns(text).column(definition);
  }

  /**
   * Parses definitions of columns and a primary key.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Schema parse(String definitions) {
    return table(definitions, false).schema();
  }

  /**
   * Parses definitions of columns and constraints.
   *
   * @param byCase whether the names of two columns may differ by case only
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Table table(String definitions, boolean byCase) {
    SqlText text = new SqlText(definitions, 1);
    SqlNode parsed = text.statement(BEFORE + definitions + "\n)");
    if (!(SqlNodes.operand(parsed, LakeOperators.CREATE_TABLE, ELEMENTS)
        instanceof SqlNodeList elements)) {
      throw text.wrong(
          "This is not a list of column definitions.", parsed.getParserPosition(), null);
    }
    return of(elements, text, byCase);
  }

  /** The table that parsed columns and constraints define. */
  public static Table of(SqlNodeList elements, SqlText text, boolean byCase) {
    return text.bounded(() -> new SqlColumns(text).table(elements, byCase));
  }

  private Table table(SqlNodeList elements, boolean byCase) {
    List<Field> columns = new ArrayList<>();
    List<SqlCall> checks = new ArrayList<>();
    List<String> key = new ArrayList<>();
    SqlParserPos keyAt = SqlParserPos.ZERO;
    for (SqlNode node : elements) {
      SqlCall element = (SqlCall) node;
      if (element.getOperator().equals(LakeOperators.COLUMN)) {
        Defined defined = column(element);
        if (defined.path().names.size() > 1) {
          throw text.wrong(
              "A column has one name; fields of a struct are defined in its type, ROW(…).",
              defined.path().getParserPosition(),
              null);
        }
        columns.add(defined.field());
        checks.addAll(defined.checks());
        if (defined.isKey()) {
          keyAt = newKey(key, element.getParserPosition());
          key.add(defined.field().name());
        }
      } else if (element.getOperator().equals(LakeOperators.PRIMARY_KEY)) {
        keyAt = newKey(key, element.getParserPosition());
        ((SqlNodeList) element.operand(1)).forEach(name -> key.add(name(name)));
      } else if (element.getOperator().equals(LakeOperators.CHECK)) {
        checks.add(element);
      } else {
        throw noUnique(element.getParserPosition());
      }
    }
    try {
      Schema schema = byCase ? Schema.ofNamesByCase(columns) : Schema.of(columns);
      schema = key.isEmpty() ? schema : schema.withKey(key.toArray(String[]::new));
      return new Table(schema, checks(checks, schema));
    } catch (SqlTextException e) {
      throw e;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), key.isEmpty() ? elements.getParserPosition() : keyAt, e);
    }
  }

  private static String name(SqlNode name) {
    return ((SqlIdentifier) name).getSimple();
  }

  private SqlParserPos newKey(List<String> before, SqlParserPos at) {
    if (!before.isEmpty()) {
      throw text.wrong("A table has one primary key; name all its columns in it.", at, null);
    }
    return at;
  }

  private SqlTextException noUnique(SqlParserPos at) {
    return text.wrong("Tables have no UNIQUE constraints. Use PRIMARY KEY.", at, null);
  }

  private List<Check> checks(List<SqlCall> given, Schema schema) {
    List<Check> checks = new ArrayList<>();
    Set<String> names = new HashSet<>();
    given.stream()
        .filter(one -> one.operand(0) != null)
        .forEach(one -> names.add(name(one.operand(0))));
    for (SqlCall one : given) {
      String name = one.operand(0) == null ? free(names) : name(one.operand(0));
      checks.add(new Check(name, SqlCondition.of(one.operand(1), text, schema)));
    }
    return checks;
  }

  /** A name for a check that has none. */
  static String free(Set<String> taken) {
    int number = 1;
    while (!taken.add("check" + number)) {
      number++;
    }
    return "check" + number;
  }

  private Defined column(SqlCall definition) {
    SqlIdentifier path = definition.operand(0);
    String name = path.names.get(path.names.size() - 1);
    Map<SqlOperator, SqlCall> said = new HashMap<>();
    List<SqlCall> checks = new ArrayList<>();
    for (SqlNode node : (SqlNodeList) definition.operand(2)) {
      SqlCall attribute = (SqlCall) node;
      if (attribute.getOperator().equals(LakeOperators.CHECK)) {
        checks.add(attribute);
      } else if (said.put(attribute.getOperator(), attribute) != null) {
        throw text.wrong(
            "This is said of column %s twice.".formatted(name),
            attribute.getParserPosition(),
            null);
      }
    }
    SqlCall unique = said.get(LakeOperators.UNIQUE);
    if (unique != null) {
      throw noUnique(unique.getParserPosition());
    }
    try {
      Field field = Field.of(name, type((SqlDataTypeSpec) definition.operand(1)));
      field = said.containsKey(LakeOperators.NOT_NULL) ? field.notNull() : field;
      SqlCall standard = said.get(LakeOperators.DEFAULT);
      field = standard == null ? field : withDefault(field, standard.operand(0));
      SqlCall comment = said.get(LakeOperators.COMMENT);
      field = comment == null ? field : field.withComment(SqlNodes.string(comment.operand(0)));
      return new Defined(path, field, said.containsKey(LakeOperators.PRIMARY_KEY), checks);
    } catch (SqlTextException e) {
      throw e;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), definition.getParserPosition(), e);
    }
  }

  private Field withDefault(Field field, SqlNode value) {
    Object standard = standard(value, field.type(), text);
    return standard == null ? field : field.withDefault(standard);
  }

  /** A default: a value of a type, or an expression; null for none. */
  static @Nullable Object standard(SqlNode value, Type type, SqlText text) {
    Object given = SqlCondition.defaultIn(value, type, text);
    return given == null || given instanceof Expression ? given : Json.fromJson(plain(given), type);
  }

  /** A literal in the form that values of every type can be read from. */
  private static Object plain(Object literal) {
    return literal instanceof Boolean || literal instanceof Number ? literal : literal.toString();
  }

  private Type type(SqlDataTypeSpec spec) {
    return type(spec.getTypeNameSpec());
  }

  private Type type(SqlTypeNameSpec spec) {
    if (spec instanceof SqlCollectionTypeNameSpec collection) {
      return Types.listOf(type(collection.getElementTypeName()));
    }
    if (spec instanceof SqlMapTypeNameSpec map) {
      return Types.mapOf(type(map.getKeyType()), type(map.getValType()));
    }
    if (spec instanceof SqlRowTypeNameSpec row) {
      List<Field> fields = new ArrayList<>();
      for (int i = 0; i < row.getFieldNames().size(); i++) {
        fields.add(
            Field.of(row.getFieldNames().get(i).getSimple(), type(row.getFieldTypes().get(i))));
      }
      return new Type.Struct(fields);
    }
    String name = spec.getTypeName().toString().toUpperCase(Locale.ROOT);
    int precision = spec instanceof SqlBasicTypeNameSpec basic ? basic.getPrecision() : -1;
    int scale = spec instanceof SqlBasicTypeNameSpec basic ? basic.getScale() : -1;
    return switch (name) {
      case "BOOLEAN" -> Types.BOOLEAN;
      case "TINYINT", "SMALLINT", "INTEGER", "INT" -> Types.INTEGER;
      case "BIGINT" -> Types.BIGINT;
      case "REAL" -> Types.REAL;
      case "FLOAT", "DOUBLE" -> Types.DOUBLE;
      case "DECIMAL", "NUMERIC" ->
          Types.decimal(precision < 0 ? Type.Decimal.MOST_DIGITS : precision, Math.max(scale, 0));
      case "DATE" -> Types.DATE;
      case "TIME" -> Types.TIME;
      case "TIMESTAMP" -> Types.TIMESTAMP;
      case "TIMESTAMP_TZ", "TIMESTAMP_WITH_LOCAL_TIME_ZONE" -> Types.INSTANT;
      case "CHAR", "VARCHAR", "TEXT" -> precision < 0 ? Types.text() : Types.text(precision);
      case "BINARY", "VARBINARY" -> Types.BINARY;
      case "UUID" -> Types.UUID;
      case "JSON" -> Types.JSON;
      default ->
          throw text.wrong(
              "There is no type %s. Types are BOOLEAN, INTEGER, BIGINT, REAL, DOUBLE, DECIMAL(p, s), DATE, TIME, TIMESTAMP, TIMESTAMP WITH TIME ZONE, VARCHAR(n), VARBINARY, UUID, JSON, t ARRAY, MAP<k, v>, ROW(…)."
                  .formatted(name),
              spec.getParserPos(),
              null);
    };
  }
}
