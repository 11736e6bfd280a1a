package org.ysteron.sql.text;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.apache.calcite.sql.SqlBasicTypeNameSpec;
import org.apache.calcite.sql.SqlCollectionTypeNameSpec;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlMapTypeNameSpec;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.SqlRowTypeNameSpec;
import org.apache.calcite.sql.SqlTypeNameSpec;
import org.apache.calcite.sql.ddl.SqlColumnDeclaration;
import org.apache.calcite.sql.ddl.SqlCreateTable;
import org.apache.calcite.sql.ddl.SqlKeyConstraint;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Expression;

/**
 * Turns SQL column definitions into a {@link Schema}: {@code gauge_id VARCHAR(12) NOT NULL,
 * level_cm DECIMAL(7, 1) DEFAULT 0, PRIMARY KEY (gauge_id)}.
 */
public final class SqlColumns {
  private static final String BEFORE = "CREATE TABLE t (\n";

  private final SqlText text;
  private final String source;

  private SqlColumns(String source, SqlText text) {
    this.text = text;
    this.source = source;
  }

  /** The type that a parsed specification names. */
  static Type type(SqlDataTypeSpec spec, SqlText text) {
    return new SqlColumns("", text).type(spec);
  }

  /**
   * Parses definitions.
   *
   * @throws SqlTextException pointing at the place that is wrong
   */
  public static Schema parse(String definitions) {
    return parse(definitions, false);
  }

  /**
   * Parses definitions.
   *
   * @param byCase whether the names of two columns may differ by case only
   */
  public static Schema parse(String definitions, boolean byCase) {
    return new SqlColumns(definitions, new SqlText(definitions, 1)).schema(byCase);
  }

  private Schema schema(boolean byCase) {
    SqlNode parsed = text.statement(BEFORE + source + "\n)");
    if (!(parsed instanceof SqlCreateTable create) || create.columnList == null) {
      throw text.wrong(
          "This is not a list of column definitions.", parsed.getParserPosition(), null);
    }
    List<Field> columns = new ArrayList<>();
    List<String> key = new ArrayList<>();
    SqlParserPos keyAt = SqlParserPos.ZERO;
    for (SqlNode node : create.columnList) {
      if (node instanceof SqlColumnDeclaration column) {
        columns.add(column(column));
      } else if (node instanceof SqlKeyConstraint constraint && isPrimary(constraint)) {
        ((SqlNodeList) constraint.getOperandList().get(1))
            .forEach(name -> key.add(((SqlIdentifier) name).getSimple()));
        keyAt = constraint.getParserPosition();
      } else {
        throw text.wrong(
            "Only columns and PRIMARY KEY (…) can be defined here.",
            node.getParserPosition(),
            null);
      }
    }
    try {
      Schema schema = byCase ? Schema.ofNamesByCase(columns) : Schema.of(columns);
      return key.isEmpty() ? schema : schema.withKey(key.toArray(String[]::new));
    } catch (YsteronException e) {
      SqlParserPos at = key.isEmpty() ? create.columnList.getParserPosition() : keyAt;
      throw text.wrong(e.getMessage(), at, e);
    }
  }

  private static boolean isPrimary(SqlKeyConstraint constraint) {
    return constraint.getOperator().getKind() == SqlKind.PRIMARY_KEY;
  }

  private Field column(SqlColumnDeclaration column) {
    try {
      Field field = Field.of(column.name.getSimple(), type(column.dataType));
      if (Boolean.FALSE.equals(column.dataType.getNullable())) {
        field = field.notNull();
      }
      if (column.expression == null) {
        return field;
      }
      Object given = SqlCondition.defaultIn(column.expression, field.type(), source, 1);
      if (given == null) {
        return field;
      }
      return field.withDefault(
          given instanceof Expression ? given : Json.fromJson(plain(given), field.type()));
    } catch (SqlTextException e) {
      throw e;
    } catch (YsteronException e) {
      throw text.wrong(e.getMessage(), column.getParserPosition(), e);
    }
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
