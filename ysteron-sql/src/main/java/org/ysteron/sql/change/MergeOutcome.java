package org.ysteron.sql.change;

import java.util.ArrayList;
import java.util.List;
import java.util.function.IntFunction;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Case;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.expr.Literal;
import org.ysteron.sql.grammar.LakeOperators;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.plan.Stage;
import org.ysteron.sql.run.FilterStep;
import org.ysteron.sql.run.ProjectStep;
import org.ysteron.sql.run.Renaming;

/**
 * What becomes of the pairs of rows that a MERGE has found. Which clause applies to a pair is
 * computed once, and values only by the clause that applies. For one statement.
 */
final class MergeOutcome {
  private static final int FILE = 0;
  private static final int POSITION = 1;
  private static final int IN_SOURCE = 2;
  private static final int BEFORE = 3;

  private final ChangeText text;
  private final Schema schema;
  private final List<MergePlan.Clause> clauses;
  private final List<Field> updated;
  private final Stage pairs;
  private final List<Condition> applies = new ArrayList<>();
  private final List<Integer> starts = new ArrayList<>();

  /**
   * For a planned query.
   *
   * @param updated columns that clauses give new values
   * @param pairs file and position of the row of the table, what is null where there is no row of
   *     the source, the updated columns as they are, and condition and values of each clause
   */
  MergeOutcome(
      ChangeText text,
      Schema schema,
      List<MergePlan.Clause> clauses,
      List<Field> updated,
      Stage pairs) {
    this.text = text;
    this.schema = schema;
    this.clauses = clauses;
    this.updated = updated;
    this.pairs = pairs;
    int next = BEFORE + updated.size();
    for (MergePlan.Clause clause : clauses) {
      Expression inTable = pairs.fields().get(FILE);
      Expression inSource = pairs.fields().get(IN_SOURCE);
      List<Condition> all = new ArrayList<>();
      all.add(clause.is(LakeOperators.WHEN_NOT_MATCHED) ? inTable.isNull() : inTable.isNotNull());
      all.add(
          clause.is(LakeOperators.WHEN_NOT_IN_SOURCE) ? inSource.isNull() : inSource.isNotNull());
      if (clause.condition() != null) {
        all.add(truth(pairs.fields().get(next++)));
      }
      applies.add(new Condition.And(all));
      starts.add(next);
      next += clause.values().size();
    }
  }

  private static Condition truth(Expression of) {
    return of instanceof Condition condition ? condition : new Condition.Holds(of);
  }

  FoundRows rows() {
    List<Expression> numbers = new ArrayList<>();
    for (int c = 0; c < clauses.size(); c++) {
      numbers.add(new Literal(c + 1));
    }
    Schema narrow = pairs.step().columns();
    List<Expression> all = new ArrayList<>(Stage.of(pairs.step()).fields());
    List<Type> types = new ArrayList<>(narrow.columns().stream().map(Field::type).toList());
    all.add(new Case(applies, numbers, new Literal(0)));
    types.add(Types.INTEGER);
    Schema wide = Made.schema(types);
    Expression clause = Stage.column(wide.columns().get(types.size() - 1).name());
    List<Condition> acting = new ArrayList<>();
    for (int c = 0; c < clauses.size(); c++) {
      if (clauses.get(c).action() != FoundRows.Action.NOTHING) {
        acting.add(clause.equalTo(c + 1));
      }
    }
    FilterStep kept = new FilterStep(new ProjectStep(pairs.step(), all, wide), anyOf(acting));
    List<Expression> fields =
        pairs.fields().stream().map(field -> Renaming.of(field, narrow, wide, 0)).toList();
    return chosen(new Stage(kept, fields), clause);
  }

  private static Condition anyOf(List<Condition> conditions) {
    return conditions.isEmpty()
        ? new Condition.Holds(new Literal(false))
        : conditions.size() == 1 ? conditions.get(0) : new Condition.Or(conditions);
  }

  /** {@code clause}: the number of the clause that applies, from 1. */
  private FoundRows chosen(Stage chosen, Expression clause) {
    boolean inserts = clauses.stream().anyMatch(MergePlan.Clause::inserts);
    List<Field> columns = inserts ? schema.columns() : updated;
    List<List<Expression>> rows = new ArrayList<>();
    for (int c = 0; c < clauses.size(); c++) {
      rows.add(row(c, columns, chosen));
    }
    List<Expression> all = new ArrayList<>();
    List<Type> types = new ArrayList<>(List.of(Types.INTEGER, Types.BIGINT, Types.BIGINT));
    all.add(byClause(clause, c -> new Literal(clauses.get(c).action().number())));
    all.add(chosen.fields().get(FILE));
    all.add(chosen.fields().get(POSITION));
    for (int i = 0; i < columns.size(); i++) {
      int column = i;
      Type type = columns.get(i).type();
      types.add(type.isText() ? Types.text() : type);
      Expression none = chosen.as(new Literal(null), type);
      all.add(byClause(clause, c -> rows.get(c).isEmpty() ? none : rows.get(c).get(column)));
    }
    ProjectStep made = new ProjectStep(chosen.step(), all, Made.schema(types));
    return new FoundRows(made, columns, updated);
  }

  private Expression byClause(Expression clause, IntFunction<Expression> value) {
    List<Condition> when = new ArrayList<>();
    List<Expression> then = new ArrayList<>();
    for (int c = 0; c < clauses.size() - 1; c++) {
      when.add(clause.equalTo(c + 1));
      then.add(value.apply(c));
    }
    Expression last = value.apply(clauses.size() - 1);
    return when.isEmpty() ? last : new Case(when, then, last);
  }

  /** The values that a clause gives columns; empty when it gives none. */
  private List<Expression> row(int number, List<Field> columns, Stage chosen) {
    MergePlan.Clause clause = clauses.get(number);
    int start = starts.get(number);
    List<Expression> own = chosen.fields().subList(start, start + clause.values().size());
    return switch (clause.action()) {
      case NOTHING, DELETE -> List.of();
      case INSERT -> text.row(schema, chosen, ChangeText.byName(clause.columns(), own));
      case UPDATE -> columns.stream().map(column -> updated(clause, own, column, chosen)).toList();
    };
  }

  private Expression updated(
      MergePlan.Clause clause, List<Expression> own, Field column, Stage chosen) {
    int set = clause.columns().indexOf(column);
    int before = updated.indexOf(column);
    if (set >= 0) {
      return chosen.as(own.get(set), column.type());
    }
    return before >= 0
        ? chosen.fields().get(BEFORE + before)
        : chosen.as(new Literal(null), column.type());
  }
}
