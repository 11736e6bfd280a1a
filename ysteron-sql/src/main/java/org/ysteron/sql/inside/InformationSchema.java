package org.ysteron.sql.inside;

import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.option.Check;
import org.ysteron.report.TableInfo;

/**
 * INFORMATION_SCHEMA (ISO/IEC 9075-11): the schemas, tables, columns and constraints of a lake.
 * Names of columns are in the case in which the schema's name was written. For one statement.
 */
public final class InformationSchema {
  /** The schema's name, in lower case. */
  public static final String SCHEMA = "information_schema";

  private static final String CATALOG = "lake";
  private static final double MANY = 100;
  private static final int BINARY = 2;
  private static final int DECIMAL = 10;
  private static final int MICROSECONDS = 6;

  /** The bits of numbers. */
  private static final Map<Type, Integer> NUMBERS =
      Map.of(Types.INTEGER, 32, Types.BIGINT, 64, Types.REAL, 24, Types.DOUBLE, 53);

  private final LakeView lake;
  private final boolean isUpper;
  private final Map<String, Supplier<InsideTable>> tables = new LinkedHashMap<>();

  /** The tables of a state of a lake; {@code isUpper}: whether names are in upper case. */
  public InformationSchema(LakeView lake, boolean isUpper) {
    this.lake = lake;
    this.isUpper = isUpper;
    tables.put("schemata", this::schemata);
    tables.put("tables", this::tables);
    tables.put("columns", this::columns);
    tables.put("table_constraints", this::constraints);
    tables.put("key_column_usage", this::keys);
    tables.put("check_constraints", this::checks);
  }

  /** The names of all tables. */
  public Collection<String> names() {
    return tables.keySet();
  }

  /** A table by its name, in any case; empty when there is none. */
  public Optional<InsideTable> find(String name) {
    return Optional.ofNullable(tables.get(name.toLowerCase(Locale.ROOT))).map(Supplier::get);
  }

  private InsideTable of(String name, String columns, Rows rows) {
    String cased = isUpper ? columns.toUpperCase(Locale.ROOT) : columns;
    return InsideTable.of(SCHEMA + "." + name, cased, MANY, rows::of);
  }

  private interface Rows {
    Stream<Object[]> of(Wanted wanted);
  }

  private static String schemaOf(String table) {
    return table.substring(0, Math.max(0, table.lastIndexOf('.')));
  }

  private static String nameOf(String table) {
    return table.substring(table.lastIndexOf('.') + 1);
  }

  private Stream<String> wanted(Wanted wanted) {
    var schema = wanted.test(cased("table_schema"));
    var name = wanted.test(cased("table_name"));
    return lake.tables().stream()
        .map(TableInfo::name)
        .filter(table -> schema.test(schemaOf(table)) && name.test(nameOf(table)));
  }

  private String cased(String name) {
    return isUpper ? name.toUpperCase(Locale.ROOT) : name;
  }

  private InsideTable schemata() {
    return of(
        "schemata",
        "catalog_name VARCHAR NOT NULL, schema_name VARCHAR NOT NULL, schema_owner VARCHAR",
        wanted ->
            Stream.concat(
                    Stream.of(SCHEMA, LakeTables.SCHEMA),
                    lake.tables().stream().map(table -> schemaOf(table.name())))
                .distinct()
                .map(schema -> InsideTable.row(CATALOG, schema, null)));
  }

  private InsideTable tables() {
    return of(
        "tables",
        "table_catalog VARCHAR NOT NULL, table_schema VARCHAR NOT NULL,"
            + " table_name VARCHAR NOT NULL, table_type VARCHAR NOT NULL,"
            + " is_insertable_into VARCHAR NOT NULL",
        wanted ->
            Stream.concat(
                wanted(wanted)
                    .map(
                        table ->
                            InsideTable.row(
                                CATALOG, schemaOf(table), nameOf(table), "BASE TABLE", "YES")),
                Stream.concat(
                    names().stream().map(name -> view(SCHEMA, name)),
                    new LakeTables(lake)
                        .names().stream().map(name -> view(LakeTables.SCHEMA, name)))));
  }

  private static Object[] view(String schema, String name) {
    return InsideTable.row(CATALOG, schema, name, "SYSTEM VIEW", "NO");
  }

  private InsideTable columns() {
    return of(
        "columns",
        "table_catalog VARCHAR NOT NULL, table_schema VARCHAR NOT NULL,"
            + " table_name VARCHAR NOT NULL, column_name VARCHAR NOT NULL,"
            + " ordinal_position INTEGER NOT NULL, column_default VARCHAR,"
            + " is_nullable VARCHAR NOT NULL, data_type VARCHAR NOT NULL,"
            + " character_maximum_length INTEGER, numeric_precision INTEGER,"
            + " numeric_precision_radix INTEGER, numeric_scale INTEGER,"
            + " datetime_precision INTEGER",
        wanted ->
            wanted(wanted)
                .flatMap(
                    table -> {
                      List<Field> columns = lake.table(table).schema().columns();
                      return IntStream.range(0, columns.size())
                          .mapToObj(at -> row(table, at + 1, columns.get(at)));
                    }));
  }

  private static Object[] row(String table, int position, Field column) {
    Type type = column.type();
    Integer length = null;
    if (type instanceof Type.Text text && text.limit().isPresent()) {
      length = text.limit().getAsInt();
    }
    return InsideTable.row(
        CATALOG,
        schemaOf(table),
        nameOf(table),
        column.name(),
        position,
        column.defaultText().orElse(null),
        column.required() ? "NO" : "YES",
        name(type),
        length,
        precision(type),
        radix(type),
        scale(type),
        ofTime(type));
  }

  private static String name(Type type) {
    return type instanceof Type.Decimal
        ? "DECIMAL"
        : type instanceof Type.Text ? "CHARACTER VARYING" : type.toString();
  }

  private static @Nullable Integer precision(Type type) {
    if (type instanceof Type.Decimal decimal) {
      return decimal.precision();
    }
    return NUMBERS.get(type);
  }

  private static @Nullable Integer radix(Type type) {
    if (!type.isNumber()) {
      return null;
    }
    return type instanceof Type.Decimal ? DECIMAL : BINARY;
  }

  private static @Nullable Integer scale(Type type) {
    if (type instanceof Type.Decimal decimal) {
      return decimal.scale();
    }
    if (type == Types.INTEGER || type == Types.BIGINT) {
      return 0;
    }
    return null;
  }

  private static @Nullable Integer ofTime(Type type) {
    if (type == Types.DATE) {
      return 0;
    }
    if (type == Types.TIMESTAMP || type == Types.INSTANT || type == Types.TIME) {
      return MICROSECONDS;
    }
    return null;
  }

  private InsideTable constraints() {
    return of(
        "table_constraints",
        "constraint_catalog VARCHAR NOT NULL, constraint_schema VARCHAR NOT NULL,"
            + " constraint_name VARCHAR NOT NULL, table_catalog VARCHAR NOT NULL,"
            + " table_schema VARCHAR NOT NULL, table_name VARCHAR NOT NULL,"
            + " constraint_type VARCHAR NOT NULL, is_deferrable VARCHAR NOT NULL,"
            + " initially_deferred VARCHAR NOT NULL",
        wanted ->
            wanted(wanted)
                .flatMap(
                    name -> {
                      TableView table = lake.table(name);
                      Stream<Object[]> checks =
                          table.checks().stream()
                              .map(check -> constraint(name, check.name(), "CHECK"));
                      return table.schema().key().isEmpty()
                          ? checks
                          : Stream.concat(
                              Stream.<Object[]>of(constraint(name, keyOf(name), "PRIMARY KEY")),
                              checks);
                    }));
  }

  private static String keyOf(String table) {
    return nameOf(table) + "_key";
  }

  private static Object[] constraint(String table, String name, String type) {
    return InsideTable.row(
        CATALOG, schemaOf(table), name, CATALOG, schemaOf(table), nameOf(table), type, "NO", "NO");
  }

  private InsideTable keys() {
    return of(
        "key_column_usage",
        "constraint_catalog VARCHAR NOT NULL, constraint_schema VARCHAR NOT NULL,"
            + " constraint_name VARCHAR NOT NULL, table_catalog VARCHAR NOT NULL,"
            + " table_schema VARCHAR NOT NULL, table_name VARCHAR NOT NULL,"
            + " column_name VARCHAR NOT NULL, ordinal_position INTEGER NOT NULL",
        wanted ->
            wanted(wanted)
                .flatMap(
                    name -> {
                      Schema schema = lake.table(name).schema();
                      return IntStream.range(0, schema.key().size())
                          .mapToObj(
                              at ->
                                  InsideTable.row(
                                      CATALOG,
                                      schemaOf(name),
                                      keyOf(name),
                                      CATALOG,
                                      schemaOf(name),
                                      nameOf(name),
                                      schema.key().get(at),
                                      at + 1));
                    }));
  }

  private InsideTable checks() {
    return of(
        "check_constraints",
        "constraint_catalog VARCHAR NOT NULL, constraint_schema VARCHAR NOT NULL,"
            + " constraint_name VARCHAR NOT NULL, check_clause VARCHAR NOT NULL",
        wanted ->
            lake.tables().stream()
                .map(TableInfo::name)
                .flatMap(
                    name -> lake.table(name).checks().stream().map(check -> row(name, check))));
  }

  private static Object[] row(String table, Check check) {
    return InsideTable.row(CATALOG, schemaOf(table), check.name(), check.condition().toString());
  }
}
