package org.ysteron.jdbc;

import java.sql.Connection;
import java.sql.DatabaseMetaData;
import java.sql.ResultSet;

/** What a lake has and what it does not have, of the features that JDBC asks for. */
abstract class SupportedFeatures extends Unwrapped implements DatabaseMetaData {
  @Override
  public final boolean allProceduresAreCallable() {
    return true;
  }

  @Override
  public final boolean allTablesAreSelectable() {
    return true;
  }

  @Override
  public final boolean nullsAreSortedHigh() {
    return true;
  }

  @Override
  public final boolean nullsAreSortedLow() {
    return false;
  }

  @Override
  public final boolean nullsAreSortedAtStart() {
    return false;
  }

  @Override
  public final boolean nullsAreSortedAtEnd() {
    return false;
  }

  @Override
  public final boolean usesLocalFiles() {
    return true;
  }

  @Override
  public final boolean usesLocalFilePerTable() {
    return false;
  }

  @Override
  public final boolean supportsMixedCaseIdentifiers() {
    return true;
  }

  @Override
  public final boolean storesUpperCaseIdentifiers() {
    return false;
  }

  @Override
  public final boolean storesLowerCaseIdentifiers() {
    return false;
  }

  @Override
  public final boolean storesMixedCaseIdentifiers() {
    return false;
  }

  @Override
  public final boolean supportsMixedCaseQuotedIdentifiers() {
    return true;
  }

  @Override
  public final boolean storesUpperCaseQuotedIdentifiers() {
    return false;
  }

  @Override
  public final boolean storesLowerCaseQuotedIdentifiers() {
    return false;
  }

  @Override
  public final boolean storesMixedCaseQuotedIdentifiers() {
    return false;
  }

  @Override
  public final boolean supportsAlterTableWithAddColumn() {
    return true;
  }

  @Override
  public final boolean supportsAlterTableWithDropColumn() {
    return true;
  }

  @Override
  public final boolean supportsColumnAliasing() {
    return true;
  }

  @Override
  public final boolean nullPlusNonNullIsNull() {
    return true;
  }

  @Override
  public final boolean supportsTableCorrelationNames() {
    return true;
  }

  @Override
  public final boolean supportsDifferentTableCorrelationNames() {
    return false;
  }

  @Override
  public final boolean supportsExpressionsInOrderBy() {
    return true;
  }

  @Override
  public final boolean supportsOrderByUnrelated() {
    return true;
  }

  @Override
  public final boolean supportsGroupBy() {
    return true;
  }

  @Override
  public final boolean supportsGroupByUnrelated() {
    return true;
  }

  @Override
  public final boolean supportsGroupByBeyondSelect() {
    return true;
  }

  @Override
  public final boolean supportsLikeEscapeClause() {
    return true;
  }

  @Override
  public final boolean supportsMultipleResultSets() {
    return false;
  }

  @Override
  public final boolean supportsMultipleTransactions() {
    return true;
  }

  @Override
  public final boolean supportsNonNullableColumns() {
    return true;
  }

  @Override
  public final boolean supportsMinimumSQLGrammar() {
    return true;
  }

  @Override
  public final boolean supportsCoreSQLGrammar() {
    return true;
  }

  @Override
  public final boolean supportsExtendedSQLGrammar() {
    return false;
  }

  @Override
  public final boolean supportsANSI92EntryLevelSQL() {
    return false;
  }

  @Override
  public final boolean supportsANSI92IntermediateSQL() {
    return false;
  }

  @Override
  public final boolean supportsANSI92FullSQL() {
    return false;
  }

  @Override
  public final boolean supportsIntegrityEnhancementFacility() {
    return false;
  }

  @Override
  public final boolean supportsOuterJoins() {
    return true;
  }

  @Override
  public final boolean supportsFullOuterJoins() {
    return true;
  }

  @Override
  public final boolean supportsLimitedOuterJoins() {
    return true;
  }

  @Override
  public final boolean isCatalogAtStart() {
    return false;
  }

  @Override
  public final boolean supportsSchemasInDataManipulation() {
    return true;
  }

  @Override
  public final boolean supportsSchemasInProcedureCalls() {
    return true;
  }

  @Override
  public final boolean supportsSchemasInTableDefinitions() {
    return true;
  }

  @Override
  public final boolean supportsSchemasInIndexDefinitions() {
    return false;
  }

  @Override
  public final boolean supportsSchemasInPrivilegeDefinitions() {
    return false;
  }

  @Override
  public final boolean supportsCatalogsInDataManipulation() {
    return false;
  }

  @Override
  public final boolean supportsCatalogsInProcedureCalls() {
    return false;
  }

  @Override
  public final boolean supportsCatalogsInTableDefinitions() {
    return false;
  }

  @Override
  public final boolean supportsCatalogsInIndexDefinitions() {
    return false;
  }

  @Override
  public final boolean supportsCatalogsInPrivilegeDefinitions() {
    return false;
  }

  @Override
  public final boolean supportsPositionedDelete() {
    return false;
  }

  @Override
  public final boolean supportsPositionedUpdate() {
    return false;
  }

  @Override
  public final boolean supportsSelectForUpdate() {
    return false;
  }

  @Override
  public final boolean supportsStoredProcedures() {
    return true;
  }

  @Override
  public final boolean supportsSubqueriesInComparisons() {
    return true;
  }

  @Override
  public final boolean supportsSubqueriesInExists() {
    return true;
  }

  @Override
  public final boolean supportsSubqueriesInIns() {
    return true;
  }

  @Override
  public final boolean supportsSubqueriesInQuantifieds() {
    return true;
  }

  @Override
  public final boolean supportsCorrelatedSubqueries() {
    return true;
  }

  @Override
  public final boolean supportsUnion() {
    return true;
  }

  @Override
  public final boolean supportsUnionAll() {
    return true;
  }

  @Override
  public final boolean supportsOpenCursorsAcrossCommit() {
    return false;
  }

  @Override
  public final boolean supportsOpenCursorsAcrossRollback() {
    return false;
  }

  @Override
  public final boolean supportsOpenStatementsAcrossCommit() {
    return true;
  }

  @Override
  public final boolean supportsOpenStatementsAcrossRollback() {
    return true;
  }

  @Override
  public final boolean doesMaxRowSizeIncludeBlobs() {
    return false;
  }

  @Override
  public final boolean supportsTransactions() {
    return true;
  }

  @Override
  public final boolean supportsDataDefinitionAndDataManipulationTransactions() {
    return true;
  }

  @Override
  public final boolean supportsDataManipulationTransactionsOnly() {
    return false;
  }

  @Override
  public final boolean dataDefinitionCausesTransactionCommit() {
    return false;
  }

  @Override
  public final boolean dataDefinitionIgnoredInTransactions() {
    return false;
  }

  @Override
  public final boolean ownUpdatesAreVisible(int kind) {
    return false;
  }

  @Override
  public final boolean ownDeletesAreVisible(int kind) {
    return false;
  }

  @Override
  public final boolean ownInsertsAreVisible(int kind) {
    return false;
  }

  @Override
  public final boolean othersUpdatesAreVisible(int kind) {
    return false;
  }

  @Override
  public final boolean othersDeletesAreVisible(int kind) {
    return false;
  }

  @Override
  public final boolean othersInsertsAreVisible(int kind) {
    return false;
  }

  @Override
  public final boolean updatesAreDetected(int kind) {
    return false;
  }

  @Override
  public final boolean deletesAreDetected(int kind) {
    return false;
  }

  @Override
  public final boolean insertsAreDetected(int kind) {
    return false;
  }

  @Override
  public final boolean supportsBatchUpdates() {
    return true;
  }

  @Override
  public final boolean supportsSavepoints() {
    return false;
  }

  @Override
  public final boolean supportsNamedParameters() {
    return false;
  }

  @Override
  public final boolean supportsMultipleOpenResults() {
    return true;
  }

  @Override
  public final boolean supportsGetGeneratedKeys() {
    return false;
  }

  @Override
  public final boolean locatorsUpdateCopy() {
    return false;
  }

  @Override
  public final boolean supportsStatementPooling() {
    return false;
  }

  @Override
  public final boolean supportsStoredFunctionsUsingCallSyntax() {
    return false;
  }

  @Override
  public final boolean autoCommitFailureClosesAllResultSets() {
    return false;
  }

  @Override
  public final boolean generatedKeyAlwaysReturned() {
    return false;
  }

  @Override
  public final boolean supportsConvert() {
    return false;
  }

  @Override
  public final boolean supportsConvert(int from, int to) {
    return false; // of the escape; CAST is there
  }

  @Override
  public final boolean supportsTransactionIsolationLevel(int level) {
    return level == Connection.TRANSACTION_SERIALIZABLE
        || level == Connection.TRANSACTION_REPEATABLE_READ;
  }

  @Override
  public final boolean supportsResultSetType(int type) {
    return type == ResultSet.TYPE_FORWARD_ONLY;
  }

  @Override
  public final boolean supportsResultSetConcurrency(int type, int concurrency) {
    return type == ResultSet.TYPE_FORWARD_ONLY && concurrency == ResultSet.CONCUR_READ_ONLY;
  }

  @Override
  public final boolean supportsResultSetHoldability(int holdability) {
    return holdability == ResultSet.CLOSE_CURSORS_AT_COMMIT;
  }
}
