package org.ysteron.jdbc;

import java.sql.DatabaseMetaData;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import java.util.TreeSet;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Values;
import org.ysteron.report.TableInfo;
import org.ysteron.sql.inside.InformationSchema;
import org.ysteron.sql.inside.LakeTables;

/** The lists of tables, columns and keys that JDBC asks for. For one thread at a time. */
final class TableLists {
  static final String TABLE = "TABLE";
  static final String SYSTEM = "SYSTEM TABLE";

  private final LakeConnection connection;

  TableLists(LakeConnection connection) {
    this.connection = connection;
  }

  /**
   * Whether a name matches a pattern, with {@code %}, {@code _} and a backslash before those that
   * are meant as they are; null matches all.
   */
  static boolean matches(@Nullable String pattern, String name) {
    if (pattern == null || pattern.equals("%")) {
      return true;
    }
    StringBuilder regex = new StringBuilder();
    for (int i = 0; i < pattern.length(); i++) {
      char letter = pattern.charAt(i);
      if (letter == '\\' && i + 1 < pattern.length()) {
        regex.append(Pattern.quote(String.valueOf(pattern.charAt(++i))));
      } else {
        regex.append(
            letter == '%' ? ".*" : letter == '_' ? "." : Pattern.quote(String.valueOf(letter)));
      }
    }
    return Pattern.compile(regex.toString(), Pattern.DOTALL).matcher(name).matches();
  }

  /** A table by namespace and name. */
  private record Named(String schema, String name, String type) {
    String full() {
      return schema + "." + name;
    }
  }

  private static List<Named> all(LakeView lake) {
    List<Named> all = new ArrayList<>();
    for (TableInfo table : lake.tables()) {
      int dot = table.name().indexOf('.');
      all.add(new Named(table.name().substring(0, dot), table.name().substring(dot + 1), TABLE));
    }
    new LakeTables(lake)
        .names()
        .forEach(name -> all.add(new Named(LakeTables.SCHEMA, name, SYSTEM)));
    new InformationSchema(lake, false)
        .names()
        .forEach(name -> all.add(new Named(InformationSchema.SCHEMA, name, SYSTEM)));
    return all;
  }

  private static List<Named> some(
      LakeView lake, @Nullable String catalog, @Nullable String schema, @Nullable String table) {
    boolean isNone = catalog != null && !catalog.isEmpty() && !catalog.equals("%");
    return isNone
        ? List.of()
        : all(lake).stream()
            .filter(one -> matches(schema, one.schema) && matches(table, one.name))
            .sorted(
                Comparator.comparing(Named::type)
                    .thenComparing(Named::schema)
                    .thenComparing(Named::name))
            .toList();
  }

  private static Schema schema(LakeView lake, Named table) {
    return switch (table.schema) {
      case LakeTables.SCHEMA -> new LakeTables(lake).find(table.name).orElseThrow().columns();
      case InformationSchema.SCHEMA ->
          new InformationSchema(lake, false).find(table.name).orElseThrow().columns();
      default -> lake.table(table.full()).schema();
    };
  }

  ResultSet tables(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String table,
      String @Nullable [] types)
      throws SQLException {
    MadeRows rows =
        new MadeRows(
            "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, TABLE_TYPE VARCHAR, REMARKS VARCHAR, TYPE_CAT VARCHAR, TYPE_SCHEM VARCHAR, TYPE_NAME VARCHAR, SELF_REFERENCING_COL_NAME VARCHAR, REF_GENERATION VARCHAR");
    return connection.doing(
        () -> {
          for (Named one : some(connection.seen(), catalog, schema, table)) {
            if (types == null || Arrays.asList(types).contains(one.type)) {
              rows.add(null, one.schema, one.name, one.type, null, null, null, null, null, null);
            }
          }
          return rows.result(null);
        });
  }

  ResultSet schemas(@Nullable String catalog, @Nullable String schema) throws SQLException {
    MadeRows rows = new MadeRows("TABLE_SCHEM VARCHAR, TABLE_CATALOG VARCHAR");
    return connection.doing(
        () -> {
          TreeSet<String> names = new TreeSet<>();
          some(connection.seen(), catalog, schema, null).forEach(one -> names.add(one.schema));
          names.forEach(name -> rows.add(name, null));
          return rows.result(null);
        });
  }

  ResultSet columns(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String table,
      @Nullable String column)
      throws SQLException {
    MadeRows rows =
        new MadeRows(
            "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, COLUMN_NAME VARCHAR, DATA_TYPE INTEGER, TYPE_NAME VARCHAR, COLUMN_SIZE INTEGER, BUFFER_LENGTH INTEGER, DECIMAL_DIGITS INTEGER, NUM_PREC_RADIX INTEGER, NULLABLE INTEGER, REMARKS VARCHAR, COLUMN_DEF VARCHAR, SQL_DATA_TYPE INTEGER, SQL_DATETIME_SUB INTEGER, CHAR_OCTET_LENGTH INTEGER, ORDINAL_POSITION INTEGER, IS_NULLABLE VARCHAR, SCOPE_CATALOG VARCHAR, SCOPE_SCHEMA VARCHAR, SCOPE_TABLE VARCHAR, SOURCE_DATA_TYPE INTEGER, IS_AUTOINCREMENT VARCHAR, IS_GENERATEDCOLUMN VARCHAR");
    return connection.doing(
        () -> {
          LakeView lake = connection.seen();
          for (Named one : some(lake, catalog, schema, table)) {
            List<Field> fields = schema(lake, one).columns();
            for (int c = 0; c < fields.size(); c++) {
              if (matches(column, fields.get(c).name())) {
                add(rows, one, fields.get(c), c + 1);
              }
            }
          }
          return rows.result(null);
        });
  }

  private static void add(MadeRows rows, Named table, Field field, int number) {
    Type type = field.type();
    Object standard = field.standard();
    rows.add(
        null,
        table.schema,
        table.name,
        field.name(),
        ColumnTypes.code(type),
        ColumnTypes.name(type),
        size(type),
        null,
        hasDigits(type) ? ColumnTypes.scale(type) : null,
        type.isNumber() ? 10 : null,
        field.required() ? DatabaseMetaData.columnNoNulls : DatabaseMetaData.columnNullable,
        field.comment().isEmpty() ? null : field.comment(),
        standard == null
            ? null
            : standard instanceof org.ysteron.expr.Expression
                ? standard.toString()
                : Values.literal(standard),
        null,
        null,
        type.isText() || type == Types.BINARY ? Integer.MAX_VALUE : null,
        number,
        field.required() ? "NO" : "YES",
        null,
        null,
        null,
        null,
        "NO",
        "NO");
  }

  private static int size(Type type) {
    int precision = ColumnTypes.precision(type);
    return precision == 0 ? Integer.MAX_VALUE : precision;
  }

  private static boolean hasDigits(Type type) {
    return type instanceof Type.Decimal
        || type == Types.TIME
        || type == Types.TIMESTAMP
        || type == Types.INSTANT
        || type == Types.INTEGER
        || type == Types.BIGINT;
  }

  /** The only table of a name, of any namespace when none is given. */
  private static List<Named> exactly(
      LakeView lake, @Nullable String catalog, @Nullable String schema, String table) {
    return some(lake, catalog, null, null).stream()
        .filter(one -> schema == null || one.schema.equals(schema))
        .filter(one -> one.name.equals(table))
        .toList();
  }

  ResultSet keys(@Nullable String catalog, @Nullable String schema, String table)
      throws SQLException {
    MadeRows rows =
        new MadeRows(
            "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, COLUMN_NAME VARCHAR, KEY_SEQ INTEGER, PK_NAME VARCHAR");
    return connection.doing(
        () -> {
          LakeView lake = connection.seen();
          for (Named one : exactly(lake, catalog, schema, table)) {
            List<String> key = schema(lake, one).key();
            key.stream()
                .sorted()
                .forEach(
                    name ->
                        rows.add(
                            null,
                            one.schema,
                            one.name,
                            name,
                            key.indexOf(name) + 1,
                            "PRIMARY KEY"));
          }
          return rows.result(null);
        });
  }

  ResultSet rowIdentifiers(@Nullable String catalog, @Nullable String schema, String table)
      throws SQLException {
    MadeRows rows =
        new MadeRows(
            "SCOPE INTEGER, COLUMN_NAME VARCHAR, DATA_TYPE INTEGER, TYPE_NAME VARCHAR, COLUMN_SIZE INTEGER, BUFFER_LENGTH INTEGER, DECIMAL_DIGITS INTEGER, PSEUDO_COLUMN INTEGER");
    return connection.doing(
        () -> {
          LakeView lake = connection.seen();
          for (Named one : exactly(lake, catalog, schema, table)) {
            Schema columns = schema(lake, one);
            for (String name : columns.key()) {
              Type type =
                  Objects.requireNonNull(columns.columns().get(columns.indexOf(name)).type());
              rows.add(
                  DatabaseMetaData.bestRowSession,
                  name,
                  ColumnTypes.code(type),
                  ColumnTypes.name(type),
                  size(type),
                  null,
                  ColumnTypes.scale(type),
                  DatabaseMetaData.bestRowNotPseudo);
            }
          }
          return rows.result(null);
        });
  }
}
