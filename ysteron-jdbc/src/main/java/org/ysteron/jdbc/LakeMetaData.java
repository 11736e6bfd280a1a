package org.ysteron.jdbc;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.RowIdLifetime;
import java.sql.SQLException;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.sql.procedure.Procedures;

/** What a lake is and has, as far as JDBC asks. For one thread at a time. */
final class LakeMetaData extends MetaDataLimits {
  private static final int DECIMAL_DIGITS = 38;

  private static final List<Type> TYPES =
      List.of(
          Types.BOOLEAN,
          Types.INTEGER,
          Types.BIGINT,
          Types.REAL,
          Types.DOUBLE,
          Types.decimal(DECIMAL_DIGITS, 0),
          Types.text(),
          Types.BINARY,
          Types.DATE,
          Types.TIME,
          Types.TIMESTAMP,
          Types.INSTANT,
          Types.UUID,
          Types.JSON);

  private static final String NO_KEYS =
      "PKTABLE_CAT VARCHAR, PKTABLE_SCHEM VARCHAR, PKTABLE_NAME VARCHAR, PKCOLUMN_NAME VARCHAR, FKTABLE_CAT VARCHAR, FKTABLE_SCHEM VARCHAR, FKTABLE_NAME VARCHAR, FKCOLUMN_NAME VARCHAR, KEY_SEQ INTEGER, UPDATE_RULE INTEGER, DELETE_RULE INTEGER, FK_NAME VARCHAR, PK_NAME VARCHAR, DEFERRABILITY INTEGER";

  private final LakeConnection connection;
  private final TableLists lists;

  LakeMetaData(LakeConnection connection) {
    this.connection = connection;
    this.lists = new TableLists(connection);
  }

  private static ResultSet none(String columns) {
    return new MadeRows(columns).result(null);
  }

  @Override
  public Connection getConnection() {
    return connection;
  }

  @Override
  public String getURL() {
    return connection.settings().url();
  }

  @Override
  public String getUserName() {
    return connection.settings().author().orElseGet(() -> System.getProperty("user.name", ""));
  }

  @Override
  public boolean isReadOnly() throws SQLException {
    return connection.isReadOnly();
  }

  @Override
  public String getDatabaseProductName() {
    return "Ysteron";
  }

  @Override
  public String getDatabaseProductVersion() {
    return LakeDriver.MAJOR + "." + LakeDriver.MINOR;
  }

  @Override
  public String getDriverName() {
    return "Ysteron JDBC";
  }

  @Override
  public String getDriverVersion() {
    return getDatabaseProductVersion();
  }

  @Override
  public int getDriverMajorVersion() {
    return LakeDriver.MAJOR;
  }

  @Override
  public int getDriverMinorVersion() {
    return LakeDriver.MINOR;
  }

  @Override
  public int getDatabaseMajorVersion() {
    return LakeDriver.MAJOR;
  }

  @Override
  public int getDatabaseMinorVersion() {
    return LakeDriver.MINOR;
  }

  @Override
  public int getJDBCMajorVersion() {
    return 4;
  }

  @Override
  public int getJDBCMinorVersion() {
    return 3;
  }

  @Override
  public String getIdentifierQuoteString() {
    return "\"";
  }

  @Override
  public String getSQLKeywords() {
    return "EXPLAIN,LAYOUT,LIMIT,QUALIFY";
  }

  @Override
  public String getNumericFunctions() {
    return "ABS,CEILING,EXP,FLOOR,LN,MOD,POWER,ROUND,SQRT";
  }

  @Override
  public String getStringFunctions() {
    return "CHAR_LENGTH,LOWER,OVERLAY,POSITION,SUBSTRING,TRIM,UPPER";
  }

  @Override
  public String getSystemFunctions() {
    return "CAST,COALESCE,NULLIF";
  }

  @Override
  public String getTimeDateFunctions() {
    return "CURRENT_TIMESTAMP,EXTRACT";
  }

  @Override
  public String getSearchStringEscape() {
    return "\\";
  }

  @Override
  public String getExtraNameCharacters() {
    return "";
  }

  @Override
  public String getSchemaTerm() {
    return "namespace";
  }

  @Override
  public String getProcedureTerm() {
    return "procedure";
  }

  @Override
  public String getCatalogTerm() {
    return "";
  }

  @Override
  public String getCatalogSeparator() {
    return "";
  }

  @Override
  public int getDefaultTransactionIsolation() {
    return Connection.TRANSACTION_SERIALIZABLE;
  }

  @Override
  public int getResultSetHoldability() {
    return ResultSet.CLOSE_CURSORS_AT_COMMIT;
  }

  @Override
  public int getSQLStateType() {
    return sqlStateSQL;
  }

  @Override
  public RowIdLifetime getRowIdLifetime() {
    return RowIdLifetime.ROWID_UNSUPPORTED;
  }

  @Override
  public ResultSet getTables(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String table,
      String @Nullable [] types)
      throws SQLException {
    return lists.tables(catalog, schema, table, types);
  }

  @Override
  public ResultSet getColumns(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String table,
      @Nullable String column)
      throws SQLException {
    return lists.columns(catalog, schema, table, column);
  }

  @Override
  public ResultSet getPrimaryKeys(@Nullable String catalog, @Nullable String schema, String table)
      throws SQLException {
    return lists.keys(catalog, schema, table);
  }

  @Override
  public ResultSet getBestRowIdentifier(
      @Nullable String catalog, @Nullable String schema, String table, int scope, boolean nullable)
      throws SQLException {
    return lists.rowIdentifiers(catalog, schema, table);
  }

  @Override
  public ResultSet getSchemas() throws SQLException {
    return getSchemas(null, null);
  }

  @Override
  public ResultSet getSchemas(@Nullable String catalog, @Nullable String schema)
      throws SQLException {
    return lists.schemas(catalog, schema);
  }

  @Override
  public ResultSet getCatalogs() {
    return none("TABLE_CAT VARCHAR");
  }

  @Override
  public ResultSet getTableTypes() {
    return new MadeRows("TABLE_TYPE VARCHAR")
        .add(TableLists.SYSTEM)
        .add(TableLists.TABLE)
        .result(null);
  }

  @Override
  public ResultSet getTypeInfo() {
    MadeRows rows =
        new MadeRows(
            "TYPE_NAME VARCHAR, DATA_TYPE INTEGER, PRECISION INTEGER, LITERAL_PREFIX VARCHAR, LITERAL_SUFFIX VARCHAR, CREATE_PARAMS VARCHAR, NULLABLE INTEGER, CASE_SENSITIVE BOOLEAN, SEARCHABLE INTEGER, UNSIGNED_ATTRIBUTE BOOLEAN, FIXED_PREC_SCALE BOOLEAN, AUTO_INCREMENT BOOLEAN, LOCAL_TYPE_NAME VARCHAR, MINIMUM_SCALE INTEGER, MAXIMUM_SCALE INTEGER, SQL_DATA_TYPE INTEGER, SQL_DATETIME_SUB INTEGER, NUM_PREC_RADIX INTEGER");
    TYPES.stream()
        .sorted(java.util.Comparator.comparing(ColumnTypes::code))
        .forEach(
            type -> {
              boolean isDecimal = type instanceof Type.Decimal;
              boolean isQuoted = !type.isNumber() && type != Types.BOOLEAN;
              rows.add(
                  ColumnTypes.name(type),
                  ColumnTypes.code(type),
                  ColumnTypes.precision(type),
                  isQuoted ? "'" : null,
                  isQuoted ? "'" : null,
                  isDecimal ? "precision,scale" : type.isText() ? "length" : null,
                  typeNullable,
                  type.isText(),
                  typeSearchable,
                  !type.isNumber(),
                  isDecimal,
                  false,
                  null,
                  0,
                  isDecimal ? DECIMAL_DIGITS : ColumnTypes.scale(type),
                  null,
                  null,
                  type.isNumber() ? 10 : null);
            });
    return rows.result(null);
  }

  @Override
  public ResultSet getProcedures(
      @Nullable String catalog, @Nullable String schema, @Nullable String procedure) {
    MadeRows rows =
        new MadeRows(
            "PROCEDURE_CAT VARCHAR, PROCEDURE_SCHEM VARCHAR, PROCEDURE_NAME VARCHAR, RESERVED_1 VARCHAR, RESERVED_2 VARCHAR, RESERVED_3 VARCHAR, REMARKS VARCHAR, PROCEDURE_TYPE INTEGER, SPECIFIC_NAME VARCHAR");
    Procedures.forms()
        .forEach(
            (name, form) -> {
              String own = name.substring(name.indexOf('.') + 1);
              if (TableLists.matches(schema, "lake") && TableLists.matches(procedure, own)) {
                rows.add(null, "lake", own, null, null, null, form, procedureReturnsResult, own);
              }
            });
    return rows.result(null);
  }

  @Override
  public ResultSet getProcedureColumns(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String procedure,
      @Nullable String column) {
    return none(
        "PROCEDURE_CAT VARCHAR, PROCEDURE_SCHEM VARCHAR, PROCEDURE_NAME VARCHAR, COLUMN_NAME VARCHAR, COLUMN_TYPE INTEGER, DATA_TYPE INTEGER, TYPE_NAME VARCHAR, PRECISION INTEGER, LENGTH INTEGER, SCALE INTEGER, RADIX INTEGER, NULLABLE INTEGER, REMARKS VARCHAR, COLUMN_DEF VARCHAR, SQL_DATA_TYPE INTEGER, SQL_DATETIME_SUB INTEGER, CHAR_OCTET_LENGTH INTEGER, ORDINAL_POSITION INTEGER, IS_NULLABLE VARCHAR, SPECIFIC_NAME VARCHAR");
  }

  @Override
  public ResultSet getFunctions(
      @Nullable String catalog, @Nullable String schema, @Nullable String function) {
    MadeRows rows =
        new MadeRows(
            "FUNCTION_CAT VARCHAR, FUNCTION_SCHEM VARCHAR, FUNCTION_NAME VARCHAR, REMARKS VARCHAR, FUNCTION_TYPE INTEGER, SPECIFIC_NAME VARCHAR");
    for (String name : List.of("changes", "file")) {
      if (TableLists.matches(schema, "lake") && TableLists.matches(function, name)) {
        rows.add(
            null, "lake", name, "TABLE(lake.%s(…))".formatted(name), functionReturnsTable, name);
      }
    }
    return rows.result(null);
  }

  @Override
  public ResultSet getFunctionColumns(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String function,
      @Nullable String column) {
    return none(
        "FUNCTION_CAT VARCHAR, FUNCTION_SCHEM VARCHAR, FUNCTION_NAME VARCHAR, COLUMN_NAME VARCHAR, COLUMN_TYPE INTEGER, DATA_TYPE INTEGER, TYPE_NAME VARCHAR, PRECISION INTEGER, LENGTH INTEGER, SCALE INTEGER, RADIX INTEGER, NULLABLE INTEGER, REMARKS VARCHAR, CHAR_OCTET_LENGTH INTEGER, ORDINAL_POSITION INTEGER, IS_NULLABLE VARCHAR, SPECIFIC_NAME VARCHAR");
  }

  @Override
  public ResultSet getImportedKeys(
      @Nullable String catalog, @Nullable String schema, String table) {
    return none(NO_KEYS);
  }

  @Override
  public ResultSet getExportedKeys(
      @Nullable String catalog, @Nullable String schema, String table) {
    return none(NO_KEYS);
  }

  @Override
  public ResultSet getCrossReference(
      @Nullable String catalog,
      @Nullable String schema,
      String table,
      @Nullable String otherCatalog,
      @Nullable String otherSchema,
      String otherTable) {
    return none(NO_KEYS);
  }

  @Override
  public ResultSet getIndexInfo(
      @Nullable String catalog,
      @Nullable String schema,
      String table,
      boolean unique,
      boolean approximate) {
    return none(
        "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, NON_UNIQUE BOOLEAN, INDEX_QUALIFIER VARCHAR, INDEX_NAME VARCHAR, TYPE INTEGER, ORDINAL_POSITION INTEGER, COLUMN_NAME VARCHAR, ASC_OR_DESC VARCHAR, CARDINALITY BIGINT, PAGES BIGINT, FILTER_CONDITION VARCHAR");
  }

  @Override
  public ResultSet getColumnPrivileges(
      @Nullable String catalog, @Nullable String schema, String table, @Nullable String column) {
    return none(
        "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, COLUMN_NAME VARCHAR, GRANTOR VARCHAR, GRANTEE VARCHAR, PRIVILEGE VARCHAR, IS_GRANTABLE VARCHAR");
  }

  @Override
  public ResultSet getTablePrivileges(
      @Nullable String catalog, @Nullable String schema, @Nullable String table) {
    return none(
        "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, GRANTOR VARCHAR, GRANTEE VARCHAR, PRIVILEGE VARCHAR, IS_GRANTABLE VARCHAR");
  }

  @Override
  public ResultSet getVersionColumns(
      @Nullable String catalog, @Nullable String schema, String table) {
    return none(
        "SCOPE INTEGER, COLUMN_NAME VARCHAR, DATA_TYPE INTEGER, TYPE_NAME VARCHAR, COLUMN_SIZE INTEGER, BUFFER_LENGTH INTEGER, DECIMAL_DIGITS INTEGER, PSEUDO_COLUMN INTEGER");
  }

  @Override
  public ResultSet getUDTs(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String type,
      int @Nullable [] types) {
    return none(
        "TYPE_CAT VARCHAR, TYPE_SCHEM VARCHAR, TYPE_NAME VARCHAR, CLASS_NAME VARCHAR, DATA_TYPE INTEGER, REMARKS VARCHAR, BASE_TYPE INTEGER");
  }

  @Override
  public ResultSet getSuperTypes(
      @Nullable String catalog, @Nullable String schema, @Nullable String type) {
    return none(
        "TYPE_CAT VARCHAR, TYPE_SCHEM VARCHAR, TYPE_NAME VARCHAR, SUPERTYPE_CAT VARCHAR, SUPERTYPE_SCHEM VARCHAR, SUPERTYPE_NAME VARCHAR");
  }

  @Override
  public ResultSet getSuperTables(
      @Nullable String catalog, @Nullable String schema, @Nullable String table) {
    return none(
        "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, SUPERTABLE_NAME VARCHAR");
  }

  @Override
  public ResultSet getAttributes(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String type,
      @Nullable String attribute) {
    return none(
        "TYPE_CAT VARCHAR, TYPE_SCHEM VARCHAR, TYPE_NAME VARCHAR, ATTR_NAME VARCHAR, DATA_TYPE INTEGER, ATTR_TYPE_NAME VARCHAR, ATTR_SIZE INTEGER, DECIMAL_DIGITS INTEGER, NUM_PREC_RADIX INTEGER, NULLABLE INTEGER, REMARKS VARCHAR, ATTR_DEF VARCHAR, SQL_DATA_TYPE INTEGER, SQL_DATETIME_SUB INTEGER, CHAR_OCTET_LENGTH INTEGER, ORDINAL_POSITION INTEGER, IS_NULLABLE VARCHAR, SCOPE_CATALOG VARCHAR, SCOPE_SCHEMA VARCHAR, SCOPE_TABLE VARCHAR, SOURCE_DATA_TYPE INTEGER");
  }

  @Override
  public ResultSet getClientInfoProperties() {
    return none("NAME VARCHAR, MAX_LEN INTEGER, DEFAULT_VALUE VARCHAR, DESCRIPTION VARCHAR");
  }

  @Override
  public ResultSet getPseudoColumns(
      @Nullable String catalog,
      @Nullable String schema,
      @Nullable String table,
      @Nullable String column) {
    return none(
        "TABLE_CAT VARCHAR, TABLE_SCHEM VARCHAR, TABLE_NAME VARCHAR, COLUMN_NAME VARCHAR, DATA_TYPE INTEGER, COLUMN_SIZE INTEGER, DECIMAL_DIGITS INTEGER, NUM_PREC_RADIX INTEGER, COLUMN_USAGE VARCHAR, REMARKS VARCHAR, CHAR_OCTET_LENGTH INTEGER, IS_NULLABLE VARCHAR");
  }
}
