package org.ysteron.sql.plan;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.RelRoot;
import org.apache.calcite.runtime.CalciteContextException;
import org.apache.calcite.sql.SqlNode;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Literal;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.Points;
import org.ysteron.sql.catalog.Replacements;
import org.ysteron.sql.catalog.TableFunctions;
import org.ysteron.sql.text.SqlNodes;
import org.ysteron.sql.text.SqlText;
import org.ysteron.sql.text.SqlTextException;

/**
 * Plans the queries of a text.
 *
 * @param text the text
 * @param schema where tables are whose names are given alone
 * @param parameters what stands for the question marks
 * @param now what CURRENT_TIMESTAMP is
 * @param pushes whether scans and metadata do what they can of the work of other steps
 */
public record Planning(
    SqlText text,
    Optional<String> schema,
    List<@Nullable Object> parameters,
    Instant now,
    boolean pushes) {

  private static final String UNTYPED = "Illegal use of dynamic parameter";

  /**
   * A planned query.
   *
   * @param names of its fields
   */
  public record Planned(Stage stage, Stages stages, List<String> names, SqlNode query) {}

  /** Points in the past of a state. */
  public Points points(LakeView lake) {
    return new Points(lake, schema, text, now);
  }

  /**
   * Plans a query on a state.
   *
   * @throws org.ysteron.sql.text.SqlTextException pointing at the place that is wrong
   */
  public Planned query(SqlNode parsed, LakeView lake, LakeCatalog catalog) {
    if (parameters.isEmpty()) {
      return planned(parsed, lake, catalog);
    }
    SqlNode again = SqlNodes.copy(parsed);
    try {
      return planned(parsed, lake, catalog);
    } catch (SqlTextException e) {
      // The place of a parameter tells no type, so that it has that of its value.
      if (!e.reason().contains(UNTYPED)) {
        throw e;
      }
      return planned(new ParameterTypes(parameters).cast(again), lake, catalog);
    }
  }

  private Planned planned(SqlNode parsed, LakeView lake, LakeCatalog catalog) {
    Planner planner = new Planner(catalog, schema.map(List::of).orElse(List.of()));
    Points points = points(lake);
    TableFunctions functions = new TableFunctions(points, text, now);
    SqlNode query = parsed.accept(new Replacements(catalog, points, functions, text));
    RelRoot root = planned(query, planner, catalog);
    RexReader reader =
        new RexReader(
            root.rel.getCluster().getRexBuilder(),
            new Literal(now),
            parameters,
            field -> {
              throw new IllegalStateException("there is no field " + field);
            });
    Stages stages = new Stages(reader, planner.estimates(), pushes);
    return new Planned(stages.of(root.rel), stages, root.validatedRowType.getFieldNames(), query);
  }

  private RelRoot planned(SqlNode query, Planner planner, LakeCatalog catalog) {
    try {
      return planner.plan(query);
    } catch (CalciteContextException e) {
      Optional<String> missing =
          Labels.missingTable(e)
              .map(name -> catalog.missing().orElseGet(() -> catalog.missing(name)));
      throw missing.isPresent()
          ? text.wrong(missing.get() + Labels.ofRecursion(text), Labels.place(e), e)
          : text.wrong(e, Labels.nearColumn(text, e, catalog.columns()));
    } catch (YsteronException e) {
      throw e;
    } catch (RuntimeException | AssertionError | LinkageError e) {
      throw text.wrong(
          "The query cannot be planned: %s".formatted(e), query.getParserPosition(), e);
    }
  }
}
