package org.ysteron.jdbc;

/** Limits; 0 where there is none, or none that is known. */
abstract class MetaDataLimits extends SupportedFeatures {
  @Override
  public final int getMaxBinaryLiteralLength() {
    return 0;
  }

  @Override
  public final int getMaxCharLiteralLength() {
    return 0;
  }

  @Override
  public final int getMaxColumnNameLength() {
    return 255;
  }

  @Override
  public final int getMaxColumnsInGroupBy() {
    return 0;
  }

  @Override
  public final int getMaxColumnsInIndex() {
    return 0;
  }

  @Override
  public final int getMaxColumnsInOrderBy() {
    return 0;
  }

  @Override
  public final int getMaxColumnsInSelect() {
    return 0;
  }

  @Override
  public final int getMaxColumnsInTable() {
    return 0;
  }

  @Override
  public final int getMaxConnections() {
    return 0;
  }

  @Override
  public final int getMaxCursorNameLength() {
    return 0;
  }

  @Override
  public final int getMaxIndexLength() {
    return 0;
  }

  @Override
  public final int getMaxSchemaNameLength() {
    return 255;
  }

  @Override
  public final int getMaxProcedureNameLength() {
    return 0;
  }

  @Override
  public final int getMaxCatalogNameLength() {
    return 0;
  }

  @Override
  public final int getMaxRowSize() {
    return 0;
  }

  @Override
  public final int getMaxStatementLength() {
    return 0;
  }

  @Override
  public final int getMaxStatements() {
    return 0;
  }

  @Override
  public final int getMaxTableNameLength() {
    return 255;
  }

  @Override
  public final int getMaxTablesInSelect() {
    return 0;
  }

  @Override
  public final int getMaxUserNameLength() {
    return 0;
  }
}
