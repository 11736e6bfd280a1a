package org.ysteron.jdbc;

import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.util.List;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;

/** The columns of a result. */
final class ResultMetaData extends Unwrapped implements ResultSetMetaData {
  private final Schema columns;
  private final List<String> labels;

  ResultMetaData(Schema columns, List<String> labels) {
    this.columns = columns;
    this.labels = labels;
  }

  private Field column(int number) throws SQLException {
    if (number < 1 || number > labels.size()) {
      throw SqlErrors.of(
          SqlErrors.PARAMETER,
          "There is no column %d; the result has the columns 1 to %d."
              .formatted(number, labels.size()));
    }
    return columns.columns().get(number - 1);
  }

  private Type type(int number) throws SQLException {
    return column(number).type();
  }

  @Override
  public int getColumnCount() {
    return labels.size();
  }

  @Override
  public boolean isAutoIncrement(int number) {
    return false;
  }

  @Override
  public boolean isCaseSensitive(int number) throws SQLException {
    return type(number).isText();
  }

  @Override
  public boolean isSearchable(int number) throws SQLException {
    return !type(number).isNested();
  }

  @Override
  public boolean isCurrency(int number) {
    return false;
  }

  @Override
  public int isNullable(int number) throws SQLException {
    return column(number).required() ? columnNoNulls : columnNullable;
  }

  @Override
  public boolean isSigned(int number) throws SQLException {
    return ColumnTypes.isSigned(type(number));
  }

  @Override
  public int getColumnDisplaySize(int number) throws SQLException {
    return ColumnTypes.width(type(number));
  }

  @Override
  public String getColumnLabel(int number) throws SQLException {
    column(number);
    return labels.get(number - 1);
  }

  @Override
  public String getColumnName(int number) throws SQLException {
    return getColumnLabel(number);
  }

  @Override
  public String getSchemaName(int number) {
    return "";
  }

  @Override
  public int getPrecision(int number) throws SQLException {
    return ColumnTypes.precision(type(number));
  }

  @Override
  public int getScale(int number) throws SQLException {
    return ColumnTypes.scale(type(number));
  }

  @Override
  public String getTableName(int number) {
    return "";
  }

  @Override
  public String getCatalogName(int number) {
    return "";
  }

  @Override
  public int getColumnType(int number) throws SQLException {
    return ColumnTypes.code(type(number));
  }

  @Override
  public String getColumnTypeName(int number) throws SQLException {
    return ColumnTypes.name(type(number));
  }

  @Override
  public boolean isReadOnly(int number) {
    return true;
  }

  @Override
  public boolean isWritable(int number) {
    return false;
  }

  @Override
  public boolean isDefinitelyWritable(int number) {
    return false;
  }

  @Override
  public String getColumnClassName(int number) throws SQLException {
    return ColumnTypes.javaClass(type(number)).getName();
  }
}
