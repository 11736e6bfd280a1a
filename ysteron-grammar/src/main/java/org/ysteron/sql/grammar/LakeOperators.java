package org.ysteron.sql.grammar;

import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlSpecialOperator;

/** The statements of a lake, and their parts, that Calcite has no node for. */
public final class LakeOperators {
  /** {@code EXPLAIN query}; the operand is the query. */
  public static final SqlSpecialOperator EXPLAIN = of("EXPLAIN");

  /** {@code EXPLAIN ANALYZE query}; the operand is the query. */
  public static final SqlSpecialOperator EXPLAIN_ANALYZE = of("EXPLAIN ANALYZE");

  /** {@code SET SYSTEM_TIME TO point}, with the point, or {@code SET SYSTEM_TIME DEFAULT}. */
  public static final SqlSpecialOperator SET_SYSTEM_TIME = of("SET SYSTEM_TIME");

  /** {@code DEFAULT VALUES}, the rows of an INSERT. */
  public static final SqlSpecialOperator DEFAULT_VALUES = of("DEFAULT VALUES");

  /** {@code TRUNCATE TABLE}: the table. */
  public static final SqlSpecialOperator TRUNCATE = of("TRUNCATE TABLE");

  /** {@code MERGE}: table, alias or null, source, condition, list of clauses. */
  public static final SqlSpecialOperator MERGE = of("MERGE");

  /** A clause of a MERGE: condition or null, action. */
  public static final SqlSpecialOperator WHEN_MATCHED = of("WHEN MATCHED");

  /** A clause of a MERGE for rows of the source: condition or null, action. */
  public static final SqlSpecialOperator WHEN_NOT_MATCHED = of("WHEN NOT MATCHED");

  /** A clause of a MERGE for rows of the table: condition or null, action. */
  public static final SqlSpecialOperator WHEN_NOT_IN_SOURCE = of("WHEN NOT MATCHED BY SOURCE");

  /** An action of a MERGE: columns, values. */
  public static final SqlSpecialOperator UPDATE_ROW = of("UPDATE SET");

  /** An action of a MERGE. */
  public static final SqlSpecialOperator DELETE_ROW = of("DELETE");

  /** An action of a MERGE. */
  public static final SqlSpecialOperator DO_NOTHING = of("DO NOTHING");

  /** An action of a MERGE: columns or null for all, values or null for defaults. */
  public static final SqlSpecialOperator INSERT_ROW = of("INSERT");

  /** {@code CREATE TABLE}: whether unless it exists, name, elements, layout, options, query. */
  public static final SqlSpecialOperator CREATE_TABLE = of("CREATE TABLE");

  /** A column: path, type, list of attributes. */
  public static final SqlSpecialOperator COLUMN = of("COLUMN");

  /** An attribute of a column. */
  public static final SqlSpecialOperator NOT_NULL = of("NOT NULL");

  /** An attribute of a column: the value. */
  public static final SqlSpecialOperator DEFAULT = of("DEFAULT");

  /** An attribute of a column: the text. */
  public static final SqlSpecialOperator COMMENT = of("COMMENT");

  /** A constraint: name or null, condition. */
  public static final SqlSpecialOperator CHECK = of("CHECK");

  /** A constraint: name or null, columns; of a column without. */
  public static final SqlSpecialOperator PRIMARY_KEY = of("PRIMARY KEY");

  /** A constraint that tables do not have: name or null, columns; of a column without. */
  public static final SqlSpecialOperator UNIQUE = of("UNIQUE");

  /** {@code LAYOUT}: list of rules. */
  public static final SqlSpecialOperator LAYOUT = of("LAYOUT");

  /** A rule of a layout: column, number, unit or null. */
  public static final SqlSpecialOperator RANGE_EVERY = of("RANGE EVERY");

  /** A rule of a layout: column, list of values. */
  public static final SqlSpecialOperator RANGE_AT = of("RANGE AT");

  /** A rule of a layout: column, list of lists of values. */
  public static final SqlSpecialOperator LIST = of("LIST");

  /** A rule of a layout: column, number. */
  public static final SqlSpecialOperator HASH = of("HASH");

  /** A rule of a layout: column, whether descending. */
  public static final SqlSpecialOperator SORT = of("SORT");

  /** A rule of a layout: list of columns. */
  public static final SqlSpecialOperator ALONG = of("ALONG");

  /** {@code OPTIONS}: list of options. */
  public static final SqlSpecialOperator OPTIONS = of("OPTIONS");

  /** An option: name, value or null. */
  public static final SqlSpecialOperator OPTION = of("OPTION");

  /** {@code DROP TABLE}: whether if it exists, table. */
  public static final SqlSpecialOperator DROP_TABLE = of("DROP TABLE");

  /** {@code ALTER TABLE}: table, list of actions. */
  public static final SqlSpecialOperator ALTER_TABLE = of("ALTER TABLE");

  /** An action of ALTER TABLE: column or constraint, place or null. */
  public static final SqlSpecialOperator ADD = of("ADD");

  /** An action of ALTER TABLE: name. */
  public static final SqlSpecialOperator DROP_CONSTRAINT = of("DROP CONSTRAINT");

  /** An action of ALTER TABLE. */
  public static final SqlSpecialOperator DROP_KEY = of("DROP PRIMARY KEY");

  /** An action of ALTER TABLE: path, and something when CASCADE is written. */
  public static final SqlSpecialOperator DROP_COLUMN = of("DROP COLUMN");

  /** An action of ALTER TABLE: name. */
  public static final SqlSpecialOperator RENAME_TABLE = of("RENAME TO");

  /** An action of ALTER TABLE: path, name. */
  public static final SqlSpecialOperator RENAME_COLUMN = of("RENAME COLUMN");

  /** An action of ALTER TABLE: path, place. */
  public static final SqlSpecialOperator MOVE_COLUMN = of("MOVE COLUMN");

  /** An action of ALTER TABLE: path, type. */
  public static final SqlSpecialOperator SET_TYPE = of("SET DATA TYPE");

  /** An action of ALTER TABLE: path, value or null for none. */
  public static final SqlSpecialOperator SET_DEFAULT = of("SET DEFAULT");

  /** An action of ALTER TABLE: path. */
  public static final SqlSpecialOperator SET_NOT_NULL = of("SET NOT NULL");

  /** An action of ALTER TABLE: path. */
  public static final SqlSpecialOperator DROP_NOT_NULL = of("DROP NOT NULL");

  /** An action of ALTER TABLE: path, text or null for none. */
  public static final SqlSpecialOperator SET_COMMENT = of("SET COMMENT");

  /** The place of a column. */
  public static final SqlSpecialOperator FIRST = of("FIRST");

  /** The place of a column. */
  public static final SqlSpecialOperator LAST = of("LAST");

  /** The place of a column: another one. */
  public static final SqlSpecialOperator AFTER = of("AFTER");

  /** The place of a column: another one. */
  public static final SqlSpecialOperator BEFORE = of("BEFORE");

  /** {@code COMMENT ON COLUMN}: table and path, text or null for none. */
  public static final SqlSpecialOperator COMMENT_ON = of("COMMENT ON");

  /** {@code START TRANSACTION}: list of modes, as texts. */
  public static final SqlSpecialOperator START_TRANSACTION = of("START TRANSACTION");

  /** {@code COMMIT}: comment or null. */
  public static final SqlSpecialOperator COMMIT = of("COMMIT");

  /** {@code ROLLBACK}: savepoint or null. */
  public static final SqlSpecialOperator ROLLBACK = of("ROLLBACK");

  /** {@code SAVEPOINT} and {@code RELEASE SAVEPOINT}: name. */
  public static final SqlSpecialOperator SAVEPOINT = of("SAVEPOINT");

  /** {@code CALL}: procedure, list of arguments. */
  public static final SqlSpecialOperator CALL = of("CALL");

  /** An argument of a procedure: name or null, table or null, value or null. */
  public static final SqlSpecialOperator ARGUMENT = of("ARGUMENT");

  /** A key of the leftovers: path, column or null, type or null. */
  public static final SqlSpecialOperator LIFT = of("LIFT");

  /** An action of the tool's merge: columns, none for all. */
  public static final SqlSpecialOperator TAKE_ROW = of("TAKE");

  private LakeOperators() {}

  private static SqlSpecialOperator of(String name) {
    return new SqlSpecialOperator(name, SqlKind.OTHER);
  }
}
