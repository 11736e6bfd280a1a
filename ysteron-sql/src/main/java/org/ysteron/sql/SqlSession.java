package org.ysteron.sql;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.IntConsumer;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.ddl.SqlCreateView;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeHandle;
import org.ysteron.LakeView;
import org.ysteron.Transaction;
import org.ysteron.data.Query;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.internal.text.Limits;
import org.ysteron.option.Isolation;
import org.ysteron.report.WriteResult;
import org.ysteron.sql.catalog.Points;
import org.ysteron.sql.catalog.Statements;
import org.ysteron.sql.change.PlannedChange;
import org.ysteron.sql.grammar.LakeOperators;
import org.ysteron.sql.plan.PlannedQuery;
import org.ysteron.sql.procedure.CallArguments;
import org.ysteron.sql.procedure.Procedures;
import org.ysteron.sql.text.SqlNodes;
import org.ysteron.sql.text.SqlText;

/**
 * SQL statements on a lake, one after the other. Each is a commit of its own, which is tried again
 * when it meets another commit, until {@code START TRANSACTION} or {@link #start}; then all are one
 * commit. Statements see what was done before in the transaction. One that is refused leaves the
 * transaction as it was. Temporary views, the namespace and {@code SET SYSTEM_TIME} hold until the
 * session ends. For one thread at a time.
 */
public final class SqlSession implements AutoCloseable {
  private static final String CHANGE =
      "This is not one statement that changes rows or defines a table: INSERT, UPDATE, DELETE, MERGE, TRUNCATE, CREATE, ALTER or DROP TABLE, COMMENT ON. Queries are run by sql(…), and other statements in a session.";

  private final LakeHandle lake;
  private final Map<String, SqlCreateView> views = new LinkedHashMap<>();
  private final List<String> done = new ArrayList<>();
  private Optional<String> schema = Optional.empty();
  private Optional<LakeView> then = Optional.empty();
  private Isolation isolation = Isolation.SERIALIZABLE;
  private boolean readOnly;
  private boolean onlyReads;
  private @Nullable Transaction transaction;

  /** A session on a lake, which stays open when the session ends. */
  public SqlSession(LakeHandle lake) {
    this.lake = lake;
  }

  /** The namespace of tables whose names are given alone, if one is set. */
  public Optional<String> schema() {
    return schema;
  }

  /** Sets the namespace of tables whose names are given alone. */
  public void setSchema(Optional<String> namespace) {
    schema = namespace;
  }

  /** The isolation of transactions that start without saying theirs. */
  public Isolation isolation() {
    return isolation;
  }

  /** Sets the isolation of transactions that start without saying theirs. */
  public void setIsolation(Isolation other) {
    isolation = other;
  }

  /** Whether statements that change something are refused. */
  public boolean isReadOnly() {
    return readOnly;
  }

  /** Sets whether statements that change something are refused. */
  public void setReadOnly(boolean only) {
    readOnly = only;
  }

  /** Whether a transaction was started and has not ended. */
  public boolean inTransaction() {
    return transaction != null;
  }

  /**
   * Starts a transaction.
   *
   * @throws InvalidInputException when there is one
   */
  public void start(Isolation how) {
    if (transaction != null) {
      throw new InvalidInputException(
          "A transaction was started and has not ended. COMMIT or ROLLBACK it first.");
    }
    transaction = lake.begin(how);
    onlyReads = false;
  }

  /**
   * Commits the transaction; it has ended afterwards, also when this fails.
   *
   * @param note for the history; empty for none
   * @throws org.ysteron.error.ConflictException when it met another commit that it cannot be
   *     combined with; nothing was changed
   */
  public WriteResult commit(String note) {
    Transaction ending = ending("COMMIT");
    try (ending) {
      ending.because(statements());
      return note.isEmpty() ? ending.commit() : ending.commit(note);
    } finally {
      ended();
    }
  }

  /** Gives the transaction up. */
  public void rollback() {
    ending("ROLLBACK").close();
    ended();
  }

  private Transaction ending(String how) {
    if (transaction == null) {
      throw new InvalidInputException(
          "There is no transaction to %s. Write START TRANSACTION before the first statement of one."
              .formatted(how));
    }
    return transaction;
  }

  private void ended() {
    transaction = null;
    done.clear();
  }

  /** The texts of the statements of the transaction; of very many the first ones. */
  private String statements() {
    StringBuilder all = new StringBuilder();
    for (String one : done) {
      if (all.length() + one.length() + 4 > Limits.STATEMENT) {
        return all.append(";\n…").toString();
      }
      all.append(all.isEmpty() ? "" : ";\n").append(one);
    }
    return all.toString();
  }

  /**
   * Executes the statements of a text, which semicolons part.
   *
   * @param parameters what stands for the question marks, in their order
   * @return what the last one gave
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  public SqlResult execute(String text, List<@Nullable Object> parameters) {
    SqlText sql = new SqlText(text, 0);
    List<SqlNode> statements = sql.statements();
    if (statements.isEmpty()) {
      throw new InvalidInputException("The statement is empty.");
    }
    SqlResult result = new SqlResult.Done("");
    for (SqlNode statement : statements) {
      String own = statements.size() == 1 ? text.strip() : sql.raw(statement.getParserPosition());
      result = one(new Parsed(statement, sql, own, parameters));
    }
    return result;
  }

  /**
   * Executes a statement once for each set of values, in one commit or in the transaction: all or
   * none. An INSERT of a row of question marks is planned once for all.
   *
   * @return how many rows each execution has changed
   * @throws SqlBatchException when one of them fails; it tells which
   */
  public long[] executeBatch(String text, List<List<@Nullable Object>> sets) {
    SqlText sql = new SqlText(text, 0);
    List<SqlNode> statements = sql.statements();
    long[] counts = new long[sets.size()];
    if (statements.size() == 1 && PlannedChange.takesRows(statements.get(0)) && !sets.isEmpty()) {
      SqlNode node = statements.get(0);
      Parsed all = new Parsed(node, sql, text.strip(), sets.get(0));
      refuseReadOnly(all);
      within(all, new SqlChange(node, sql, schema, sets)::apply);
      Arrays.fill(counts, 1);
      return counts;
    }
    inOneCommit(
        sets.size(),
        number -> {
          SqlResult result = execute(text, sets.get(number));
          counts[number] = result instanceof SqlResult.Changed changed ? changed.rows() : 0;
        });
    return counts;
  }

  /**
   * Does work in one commit, or in the transaction that there is: all or none.
   *
   * @throws SqlBatchException when a part of it fails; it tells which
   */
  public void inOneCommit(int parts, IntConsumer work) {
    boolean isOwn = transaction == null;
    if (isOwn) {
      start(isolation);
    }
    int[] number = {0};
    int before = done.size();
    try {
      Transaction open = Objects.requireNonNull(transaction);
      open.atomically(
          () -> {
            for (; number[0] < parts; number[0]++) {
              work.accept(number[0]);
            }
            return parts;
          });
      if (isOwn) {
        commit("");
      }
    } catch (YsteronException e) {
      done.subList(Math.min(before, done.size()), done.size()).clear();
      throw number[0] < parts ? new SqlBatchException(number[0], e) : e;
    } finally {
      if (isOwn && transaction != null) {
        rollback();
      }
    }
  }

  /** Executes one statement that changes rows or defines tables. */
  WriteResult change(String text, List<@Nullable Object> parameters) {
    SqlText sql = new SqlText(text, 0);
    List<SqlNode> statements = sql.statements();
    if (statements.isEmpty()) {
      throw sql.wrong(CHANGE, new SqlParserPos(1, 1), null);
    }
    SqlNode first = statements.get(0);
    if (statements.size() > 1 || !(PlannedChange.isOne(first) || SqlDefinition.isOne(first))) {
      SqlNode last = statements.get(statements.size() - 1);
      throw sql.wrong(CHANGE, last.getParserPosition(), null);
    }
    Parsed statement = new Parsed(first, sql, text.strip(), parameters);
    return PlannedChange.isOne(first) ? changed(statement) : define(statement, new String[1]);
  }

  /** A parsed statement, its text, and where its parameters are. */
  private record Parsed(SqlNode node, SqlText sql, String text, List<@Nullable Object> parameters) {
    RuntimeException wrong(String what) {
      return sql.wrong(what, node.getParserPosition(), null);
    }
  }

  private static boolean isQuery(SqlNode node) {
    return node.isA(SqlKind.QUERY)
        || SqlNodes.is(node, LakeOperators.EXPLAIN)
        || SqlNodes.is(node, LakeOperators.EXPLAIN_ANALYZE);
  }

  /** The query that a text is, planned and not run; empty when it is another statement. */
  public Optional<Query> described(String text, List<@Nullable Object> parameters) {
    SqlText sql = new SqlText(text, 0);
    List<SqlNode> statements = sql.statements();
    return statements.size() == 1 && isQuery(statements.get(0))
        ? Optional.of(query(new Parsed(statements.get(0), sql, text, parameters)))
        : Optional.empty();
  }

  private SqlResult one(Parsed statement) {
    SqlNode node = statement.node;
    if (isQuery(node)) {
      return new SqlResult.Rows(query(statement));
    }
    if (PlannedChange.isOne(node)) {
      return new SqlResult.Changed(changed(statement));
    }
    if (SqlDefinition.isOne(node)) {
      String[] told = {"Table altered."};
      define(statement, told);
      return new SqlResult.Done(told[0]);
    }
    return control(statement);
  }

  private WriteResult changed(Parsed statement) {
    refuseReadOnly(statement);
    SqlChange change =
        new SqlChange(statement.node, statement.sql, schema, List.of(statement.parameters));
    return within(statement, change::apply);
  }

  private SqlQuery query(Parsed statement) {
    LakeView seen = seen();
    Instant now = Instant.now().truncatedTo(ChronoUnit.MICROS);
    PlannedQuery planned =
        PlannedQuery.of(
            seen, schema, statement.node, statement.sql, views, statement.parameters, now);
    return SqlQuery.of(seen, planned, now, true);
  }

  /** The lake as statements see it now. */
  public LakeView seen() {
    return then.orElseGet(() -> transaction == null ? lake.now() : transaction.view());
  }

  private void refuseReadOnly(Parsed statement) {
    if (readOnly || (transaction != null && onlyReads)) {
      throw statement.wrong(
          "The %s is read-only. Nothing was changed."
              .formatted(readOnly ? "session" : "transaction"));
    }
    if (then.isPresent()) {
      throw statement.wrong(
          "Statements read the past since SET SYSTEM_TIME, and the past cannot be changed. Write SET SYSTEM_TIME DEFAULT first.");
    }
  }

  private interface Work {
    WriteResult in(Transaction transaction);
  }

  /** Does work in the transaction that there is, or in one of its own. */
  private WriteResult within(Parsed statement, Work work) {
    if (transaction == null) {
      return lake.because(statement.text).runInTransaction(isolation, work::in);
    }
    Transaction open = transaction;
    WriteResult result = open.atomically(() -> work.in(open));
    done.add(statement.text);
    return result;
  }

  /** {@code told}: takes what was done, for people. */
  private WriteResult define(Parsed statement, String[] told) {
    refuseReadOnly(statement);
    SqlDefinition definition =
        new SqlDefinition((SqlCall) statement.node, statement.sql, schema, statement.parameters);
    Optional<String> newName = definition.newName();
    if (newName.isEmpty()) {
      return within(
          statement,
          work -> {
            told[0] = definition.apply(work);
            return WriteResult.NOTHING;
          });
    }
    if (transaction != null) {
      throw statement.wrong(
          "A table gets another name in a commit of its own, outside of a transaction.");
    }
    return lake.because(statement.text).renameTable(definition.altered(), newName.get());
  }

  private SqlResult control(Parsed statement) {
    if (statement.node instanceof SqlCreateView view) {
      Statements.add(SqlNodes.copy(view), views, statement.sql);
      return new SqlResult.Done("View created.");
    }
    if (!(statement.node instanceof SqlCall call)) {
      throw unknown(statement);
    }
    if (SqlNodes.is(call, LakeOperators.START_TRANSACTION)) {
      return start(call.operand(0));
    }
    if (SqlNodes.is(call, LakeOperators.COMMIT)) {
      SqlNode note = call.operand(0);
      WriteResult result = commit(note == null ? "" : SqlNodes.string(note));
      return new SqlResult.Done(
          result.commit().isPresent() ? "Committed." : "Committed; nothing was changed.");
    }
    if (SqlNodes.is(call, LakeOperators.ROLLBACK) && call.operand(0) == null) {
      rollback();
      return new SqlResult.Done("Rolled back.");
    }
    if (SqlNodes.is(call, LakeOperators.ROLLBACK) || SqlNodes.is(call, LakeOperators.SAVEPOINT)) {
      throw statement.wrong(
          "There are no savepoints. A statement that fails leaves its transaction as it was; ROLLBACK gives all of it up.");
    }
    if (SqlNodes.is(call, LakeOperators.SET_SYSTEM_TIME)) {
      then =
          call.operandCount() == 0
              ? Optional.empty()
              : Optional.of(
                  new Points(lake.now(), schema, statement.sql, Instant.now())
                      .lake(call.operand(0)));
      return new SqlResult.Done("");
    }
    if (SqlNodes.is(call, LakeOperators.CALL)) {
      return new SqlResult.Rows(called(statement, call));
    }
    throw unknown(statement);
  }

  /** Calls a procedure, whose report is the result. */
  private SqlQuery called(Parsed statement, SqlCall call) {
    refuseReadOnly(statement);
    CallArguments arguments =
        new CallArguments(
            call, new CallArguments.Context(lake.now(), schema, statement.sql, Instant.now()));
    Procedures procedures = new Procedures(lake.because(statement.text), arguments);
    PlannedQuery report;
    if (transaction == null) {
      report = procedures.call();
    } else {
      report = procedures.callWithin(transaction);
      done.add(statement.text);
    }
    return SqlQuery.of(seen(), report, Instant.now(), true);
  }

  private static RuntimeException unknown(Parsed statement) {
    return statement.wrong("This statement is not there.");
  }

  private SqlResult start(SqlNodeList modes) {
    Isolation how = isolation;
    boolean reads = false;
    for (SqlNode mode : modes) {
      switch (SqlNodes.string(mode)) {
        case "READ ONLY" -> reads = true;
        case "READ WRITE" -> reads = false;
        case "SERIALIZABLE" -> how = Isolation.SERIALIZABLE;
        default -> how = Isolation.SNAPSHOT; // at least what the weaker levels ask for
      }
    }
    start(how);
    onlyReads = reads;
    return new SqlResult.Done("Transaction started.");
  }

  /** Gives up a transaction that has not ended. */
  @Override
  public void close() {
    if (transaction != null) {
      rollback();
    }
  }
}
