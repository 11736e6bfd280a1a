package org.ysteron.sql.plan;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.RelRoot;
import org.apache.calcite.runtime.CalciteContextException;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Literal;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.Points;
import org.ysteron.sql.catalog.Replacements;
import org.ysteron.sql.catalog.Statements;
import org.ysteron.sql.catalog.TableFunctions;
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
    return text.bounded(
        () -> {
          Statements.Last last =
              Statements.of(statements, lake, text, new Points(lake, schema, text, now));
          Points points = new Points(last.lake(), schema, text, now);
          LakeCatalog catalog = new LakeCatalog(last.lake());
          Planner planner = new Planner(catalog, schema.map(List::of).orElse(List.of()));
          TableFunctions functions = new TableFunctions(points, text, now);
          SqlNode pinned = last.query().accept(new Replacements(catalog, points, functions, text));
          return planned(planner, catalog, parameters, now, text, pinned, last, pushes);
        });
  }

  private static PlannedQuery planned(
      Planner planner,
      LakeCatalog catalog,
      List<@Nullable Object> parameters,
      Instant now,
      SqlText text,
      SqlNode parsed,
      Statements.Last last,
      boolean pushes) {
    RelRoot root;
    try {
      root = planner.plan(parsed);
    } catch (CalciteContextException e) {
      Optional<String> missing =
          catalog.missing().or(() -> Labels.missingTable(e).map(catalog::missing));
      throw missing.isPresent()
          ? text.wrong(missing.get() + Labels.ofRecursion(text), Labels.place(e), e)
          : text.wrong(e, Labels.nearColumn(text, e, catalog.columns()));
    } catch (YsteronException e) {
      throw e;
    } catch (RuntimeException | AssertionError | LinkageError e) {
      throw text.wrong(
          "The query cannot be planned: %s".formatted(e), parsed.getParserPosition(), e);
    }
    RexReader reader =
        new RexReader(
            root.rel.getCluster().getRexBuilder(),
            new Literal(now),
            parameters,
            field -> {
              throw new IllegalStateException("there is no field " + field);
            });
    Stages stages = new Stages(reader, planner.estimates(), pushes);
    Step step = stages.of(root.rel).whole().step();
    if (last.explains()) {
      Step explain = ExplainStep.of(step, stages.expected(), last.measures());
      return new PlannedQuery(explain, Stage.names(explain.columns()));
    }
    return new PlannedQuery(step, Labels.of(parsed, text, root.validatedRowType.getFieldNames()));
  }
}
