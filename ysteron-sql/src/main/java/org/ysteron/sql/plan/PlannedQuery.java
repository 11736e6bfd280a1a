package org.ysteron.sql.plan;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.RelRoot;
import org.apache.calcite.runtime.CalciteContextException;
import org.apache.calcite.sql.SqlKind;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Literal;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.text.SqlText;

/**
 * A query that can be run.
 *
 * @param step what makes its rows
 * @param labels the names of the columns, of which several may be the same
 * @param tree the relational operators, for people
 */
public record PlannedQuery(Step step, List<String> labels, String tree) {

  /**
   * Plans a query.
   *
   * @param schema where tables are whose names are given alone
   * @param parameters what stands for the question marks
   * @param now what CURRENT_TIMESTAMP is
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  public static PlannedQuery of(
      LakeView lake,
      Optional<String> schema,
      String query,
      List<@Nullable Object> parameters,
      Instant now) {
    SqlText text = new SqlText(query, 0);
    if (query.isBlank()) {
      throw new InvalidInputException("The query is empty.");
    }
    SqlNode parsed = text.query();
    if (!parsed.isA(SqlKind.QUERY)) {
      throw text.wrong("This is not a query.", parsed.getParserPosition(), null);
    }
    List<String> path = schema.map(List::of).orElse(List.of());
    LakeCatalog catalog = new LakeCatalog(lake);
    Planner planner = new Planner(catalog, path);
    return text.bounded(
        () -> {
          SqlNode pinned = parsed.accept(new Snapshots(lake, catalog, schema, text, now));
          return planned(planner, catalog, parameters, now, text, pinned);
        });
  }

  private static PlannedQuery planned(
      Planner planner,
      LakeCatalog catalog,
      List<@Nullable Object> parameters,
      Instant now,
      SqlText text,
      SqlNode parsed) {
    RelRoot root;
    try {
      root = planner.plan(parsed);
    } catch (CalciteContextException e) {
      Optional<String> missing = catalog.missing();
      throw missing.isPresent()
          ? text.wrong(missing.get(), Labels.place(e), e)
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
    Stage stage = new Stages(reader, planner.estimates()).of(root.rel);
    List<String> labels = Labels.of(parsed, text, root.validatedRowType.getFieldNames());
    return new PlannedQuery(stage.whole().step(), labels, RelOptUtil.toString(root.rel));
  }
}
