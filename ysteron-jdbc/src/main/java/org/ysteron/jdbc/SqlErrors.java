package org.ysteron.jdbc;

import java.sql.SQLDataException;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.sql.SQLIntegrityConstraintViolationException;
import java.sql.SQLNonTransientConnectionException;
import java.sql.SQLSyntaxErrorException;
import java.sql.SQLTimeoutException;
import java.sql.SQLTransactionRollbackException;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.CancelledException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.EndedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.NotFoundException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.error.WrongLakeException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.sql.SqlBatchException;
import org.ysteron.sql.text.SqlTextException;

/** Failures as JDBC has them: by the classes of SQLSTATE of ISO/IEC 9075-2, 24.1. */
final class SqlErrors {
  static final String NO_SUPPORT = "0A000";
  static final String WRONG_CONNECTION = "08001";
  static final String CLOSED = "08003";
  static final String UNKNOWN_OUTCOME = "08007";
  static final String WRONG_LAKE = "08004";
  static final String DATA = "22000";
  static final String OUT_OF_RANGE = "22003";
  static final String DIVISION = "22012";
  static final String PARAMETER = "07009";
  static final String CONSTRAINT = "23000";
  static final String KEY = "23505";
  static final String STATE = "24000";
  static final String TRANSACTION = "25000";
  static final String READ_ONLY = "25006";
  static final String CONFLICT = "40001";
  static final String SYNTAX = "42000";
  static final String TABLE_EXISTS = "42S01";
  static final String NO_TABLE = "42S02";
  static final String NO_COLUMN = "42S22";
  static final String CANCELLED = "57014";
  static final String STORE = "58030";
  static final String GENERAL = "HY000";

  private SqlErrors() {}

  /** A failure of a class. */
  static SQLException of(String state, String what) {
    return of(state, what, null);
  }

  static SQLException of(String state, String what, @Nullable Throwable cause) {
    return switch (state.substring(0, 2)) {
      case "08" -> new SQLNonTransientConnectionException(what, state, cause);
      case "0A" -> new SQLFeatureNotSupportedException(what, state, cause);
      case "22" -> new SQLDataException(what, state, cause);
      case "23" -> new SQLIntegrityConstraintViolationException(what, state, cause);
      case "40" -> new SQLTransactionRollbackException(what, state, cause);
      case "42" -> new SQLSyntaxErrorException(what, state, cause);
      case "57" -> new SQLTimeoutException(what, state, cause);
      default -> new SQLException(what, state, cause);
    };
  }

  /** Something that there is not. */
  static SQLException unsupported(String what) {
    return of(NO_SUPPORT, "This is not supported: %s.".formatted(what));
  }

  /** A failure of the library. */
  static SQLException of(YsteronException e) {
    String message = String.valueOf(e.getMessage());
    return of(state(e), message, e);
  }

  private static String state(YsteronException e) {
    if (e instanceof SqlBatchException batch
        && batch.getCause() instanceof YsteronException cause) {
      return state(cause);
    }
    if (e instanceof ConflictException) {
      return CONFLICT;
    }
    if (e instanceof CancelledException) {
      return CANCELLED;
    }
    if (e instanceof EndedException) {
      return TRANSACTION;
    }
    if (e instanceof UnknownOutcomeException) {
      return UNKNOWN_OUTCOME;
    }
    if (e instanceof DamagedException) {
      return STORE;
    }
    if (e instanceof WrongLakeException) {
      return WRONG_LAKE;
    }
    if (e instanceof NotFoundException missing) {
      return missing.kind() == NotFoundException.Kind.COLUMN ? NO_COLUMN : NO_TABLE;
    }
    if (e instanceof ExpiredException) {
      return NO_TABLE;
    }
    return e instanceof InvalidInputException ? ofInput(e) : GENERAL;
  }

  private static String ofInput(YsteronException e) {
    if (e instanceof KeyExistsException) {
      return KEY;
    }
    if (e instanceof RejectedRowException) {
      return CONSTRAINT;
    }
    if (e instanceof AlreadyExistsException) {
      return TABLE_EXISTS;
    }
    if (e instanceof SqlTextException text) {
      return ofText(text);
    }
    String message = String.valueOf(e.getMessage());
    boolean isComputed = e instanceof ComputeException || e.getCause() instanceof ComputeException;
    if (message.contains("division by zero")) {
      return DIVISION;
    }
    if (isComputed) {
      return message.contains("fit") ? OUT_OF_RANGE : DATA;
    }
    return message.contains("read-only") ? READ_ONLY : DATA;
  }

  private static String ofText(SqlTextException e) {
    if (e.getCause() instanceof YsteronException cause && !(cause instanceof SqlTextException)) {
      String state = state(cause);
      return state.equals(DATA) ? SYNTAX : state;
    }
    String reason = e.reason();
    if (reason.startsWith("There is no table")) {
      return NO_TABLE;
    }
    if (reason.contains("read-only")) {
      return READ_ONLY;
    }
    boolean isColumn =
        reason.startsWith("There is no column") || reason.contains("not found in any table");
    return isColumn ? NO_COLUMN : SYNTAX;
  }
}
