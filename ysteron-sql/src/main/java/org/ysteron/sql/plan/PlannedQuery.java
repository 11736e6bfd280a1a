package org.ysteron.sql.plan;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.ddl.SqlCreateView;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.error.InvalidInputException;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.Statements;
import org.ysteron.sql.explain.ExplainStep;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.text.SqlText;

/**
 * A query that can be run.
 *
 * @param step what makes its rows
 * @param labels the names of the columns, of which several may be the same
 */
public record PlannedQuery(Step step, List<String> labels) {

  /**
   * Plans a query.
   *
   * @param schema where tables are whose names are given alone
   * @param parameters what stands for the question marks
   * @param now what CURRENT_TIMESTAMP is
   * @param pushes whether scans and metadata do what they can of the work of other steps
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  public static PlannedQuery of(
      LakeView lake,
      Optional<String> schema,
      String query,
      List<@Nullable Object> parameters,
      Instant now,
      boolean pushes) {
    SqlText text = new SqlText(query, 0);
    List<SqlNode> statements = text.statements();
    if (statements.isEmpty()) {
      throw new InvalidInputException("The query is empty.");
    }
    Planning planning = new Planning(text, schema, parameters, now, pushes);
    return text.bounded(
        () ->
            planned(planning, Statements.of(statements, lake, text, planning.points(lake)), text));
  }

  /**
   * Plans a parsed query of a session.
   *
   * @param views its temporary views
   */
  public static PlannedQuery of(
      LakeView lake,
      Optional<String> schema,
      SqlNode query,
      SqlText text,
      Map<String, SqlCreateView> views,
      List<@Nullable Object> parameters,
      Instant now) {
    Planning planning = new Planning(text, schema, parameters, now, true);
    return text.bounded(() -> planned(planning, Statements.of(query, lake, text, views), text));
  }

  private static PlannedQuery planned(Planning planning, Statements.Last last, SqlText text) {
    LakeCatalog catalog = new LakeCatalog(last.lake());
    Planning.Planned planned = planning.query(last.query(), last.lake(), catalog);
    Step step = planned.stage().whole().step();
    if (last.explains()) {
      Step explain = ExplainStep.of(step, planned.stages().expected(), last.measures());
      return new PlannedQuery(explain, Stage.names(explain.columns()));
    }
    return new PlannedQuery(step, Labels.of(planned.query(), text, planned.names()));
  }
}
