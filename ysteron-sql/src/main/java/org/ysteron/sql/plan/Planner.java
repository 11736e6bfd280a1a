package org.ysteron.sql.plan;

import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import org.apache.calcite.config.CalciteConnectionConfig;
import org.apache.calcite.config.CalciteConnectionConfigImpl;
import org.apache.calcite.config.CalciteConnectionProperty;
import org.apache.calcite.jdbc.CalciteSchema;
import org.apache.calcite.jdbc.JavaTypeFactoryImpl;
import org.apache.calcite.plan.Contexts;
import org.apache.calcite.plan.RelOptCluster;
import org.apache.calcite.plan.RelOptRule;
import org.apache.calcite.plan.RelRule;
import org.apache.calcite.plan.hep.HepMatchOrder;
import org.apache.calcite.plan.hep.HepPlanner;
import org.apache.calcite.plan.hep.HepProgram;
import org.apache.calcite.plan.hep.HepProgramBuilder;
import org.apache.calcite.prepare.CalciteCatalogReader;
import org.apache.calcite.rel.RelHomogeneousShuttle;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.RelRoot;
import org.apache.calcite.rel.core.Filter;
import org.apache.calcite.rel.core.Join;
import org.apache.calcite.rel.core.JoinRelType;
import org.apache.calcite.rel.metadata.DefaultRelMetadataProvider;
import org.apache.calcite.rel.metadata.ProxyingMetadataHandlerProvider;
import org.apache.calcite.rel.metadata.RelMetadataQuery;
import org.apache.calcite.rel.rules.FilterAggregateTransposeRule;
import org.apache.calcite.rel.rules.FilterCorrelateRule;
import org.apache.calcite.rel.rules.FilterJoinRule.FilterIntoJoinRule.FilterIntoJoinRuleConfig;
import org.apache.calcite.rel.rules.FilterJoinRule.JoinConditionPushRule.JoinConditionPushRuleConfig;
import org.apache.calcite.rel.rules.FilterMergeRule;
import org.apache.calcite.rel.rules.FilterProjectTransposeRule;
import org.apache.calcite.rel.rules.JoinPushExpressionsRule;
import org.apache.calcite.rel.rules.MarkToSemiOrAntiJoinRule;
import org.apache.calcite.rel.rules.ProjectMergeRule;
import org.apache.calcite.rel.rules.ProjectRemoveRule;
import org.apache.calcite.rel.rules.ProjectToWindowRule.ProjectToLogicalProjectAndWindowRule.ProjectToLogicalProjectAndWindowRuleConfig;
import org.apache.calcite.rel.rules.SemiJoinJoinTransposeRule;
import org.apache.calcite.rel.rules.SemiJoinProjectTransposeRule;
import org.apache.calcite.rel.rules.SubQueryRemoveRule;
import org.apache.calcite.rex.RexBuilder;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.validate.SqlValidator;
import org.apache.calcite.sql2rel.RelFieldTrimmer;
import org.apache.calcite.sql2rel.SqlToRelConverter;
import org.apache.calcite.sql2rel.StandardConvertletTable;
import org.apache.calcite.sql2rel.TopDownGeneralDecorrelator;
import org.apache.calcite.tools.RelBuilder;
import org.apache.calcite.tools.RelBuilderFactory;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.LakeNames;
import org.ysteron.sql.catalog.LakeTypeSystem;
import org.ysteron.sql.catalog.LakeValidator;

/**
 * Makes a tree of relational operators of a parsed query: names and types are found, subqueries
 * become joins, conditions go down, joins are ordered. Rules only; there are no costs and no
 * conventions, since each operator has one form. For one query.
 */
final class Planner {
  private static final CalciteConnectionConfig CONFIG =
      new CalciteConnectionConfigImpl(new Properties())
          .set(CalciteConnectionProperty.CASE_SENSITIVE, "true");

  /** Makes relations as they are asked for: texts would be compared in another order than ours. */
  private static final RelBuilderFactory PLAIN =
      RelBuilder.proto(Contexts.of(RelBuilder.Config.DEFAULT.withSimplify(false)));

  /** INs of more values are a join with them. */
  private static final int MOST_IN = 1000;

  /** A semi-join with so many times fewer rows than its left side moves down. */
  private static final int SMALL = 2;

  private final JavaTypeFactoryImpl types =
      new JavaTypeFactoryImpl(new LakeTypeSystem()) {
        @Override
        public Charset getDefaultCharset() {
          return StandardCharsets.UTF_8;
        }
      };
  private final Estimates estimates = new Estimates();
  private final CalciteCatalogReader reader;
  private final RelOptCluster cluster;

  /** {@code schema}: where tables are whose names are given alone; empty for nowhere. */
  Planner(LakeCatalog catalog, List<String> schema) {
    CalciteSchema root = CalciteSchema.createRootSchema(false, false, "", catalog);
    this.reader = new Reader(root, schema, types);
    this.cluster = RelOptCluster.create(withoutComputing(), new RexBuilder(types));
    cluster.setMetadataQuerySupplier(Metadata::new);
  }

  /** Finds tables, of the namespace first, and columns by our rule for names. */
  private static final class Reader extends CalciteCatalogReader {
    Reader(CalciteSchema root, List<String> schema, JavaTypeFactoryImpl types) {
      super(
          root,
          new LakeNames(),
          schema.isEmpty() ? List.of(List.of()) : List.of(schema, List.of()),
          types,
          CONFIG);
    }
  }

  /** A planner that leaves constant expressions as they are: they are computed by us. */
  private static HepPlanner withoutComputing() {
    HepPlanner planner = new HepPlanner(HepProgram.builder().build());
    planner.setExecutor((builder, constants, reduced) -> reduced.addAll(constants));
    return planner;
  }

  /** What is known of relations, found without compiling code. */
  private static final class Metadata extends RelMetadataQuery {
    Metadata() {
      super(new ProxyingMetadataHandlerProvider(DefaultRelMetadataProvider.INSTANCE));
    }
  }

  Estimates estimates() {
    return estimates;
  }

  /** Plans a query; the root says which of the fields are its columns, and how they are named. */
  RelRoot plan(SqlNode query) {
    SqlValidator validator = new LakeValidator(reader, types);
    SqlNode valid = validator.validate(query);
    SqlToRelConverter converter =
        new SqlToRelConverter(
            (type, text, path, parent) -> null,
            validator,
            reader,
            cluster,
            StandardConvertletTable.INSTANCE,
            SqlToRelConverter.config()
                .withExpand(false)
                .withTrimUnusedFields(true)
                .withInSubQueryThreshold(MOST_IN)
                .withRelBuilderFactory(PLAIN)
                .withRelBuilderConfigTransform(config -> config.withSimplify(false)));
    RelRoot root = converter.convertQuery(valid, false, true);
    return root.withRel(rewritten(root.project()));
  }

  private RelNode rewritten(RelNode converted) {
    RelNode rel = converted.accept(new Factors()).accept(new ExistsJoins());
    rel =
        apply(
            rel,
            SubQueryRemoveRule.Config.FILTER_ENABLE_MARK_JOIN,
            SubQueryRemoveRule.Config.PROJECT_ENABLE_MARK_JOIN,
            SubQueryRemoveRule.Config.JOIN);
    rel = decorrelated(rel);
    rel =
        apply(
            rel,
            MarkToSemiOrAntiJoinRule.Config.DEFAULT,
            FilterMergeRule.Config.DEFAULT,
            ProjectMergeRule.Config.DEFAULT);
    rel =
        apply(
            rel,
            FilterIntoJoinRuleConfig.DEFAULT,
            JoinConditionPushRuleConfig.DEFAULT,
            FilterProjectTransposeRule.Config.DEFAULT,
            FilterAggregateTransposeRule.Config.DEFAULT,
            FilterCorrelateRule.Config.DEFAULT,
            FilterMergeRule.Config.DEFAULT,
            ProjectMergeRule.Config.DEFAULT,
            ProjectRemoveRule.Config.DEFAULT,
            JoinPushExpressionsRule.Config.DEFAULT);
    rel = rel.accept(new SmallSemiJoins()).accept(new JoinOrder(estimates));
    rel = rel.accept(new NarrowWindows());
    rel = apply(rel, ProjectToLogicalProjectAndWindowRuleConfig.DEFAULT);
    rel = new RelFieldTrimmer(null, builder()).trim(rel);
    return apply(
        rel,
        ProjectMergeRule.Config.DEFAULT,
        ProjectRemoveRule.Config.DEFAULT,
        FilterMergeRule.Config.DEFAULT);
  }

  /** The decorrelator simplifies conditions, and would compare texts in the order of Java. */
  private RelNode decorrelated(RelNode rel) {
    if (!HiddenTexts.hasCorrelate(rel)) {
      return rel;
    }
    HiddenTexts texts = new HiddenTexts(cluster.getRexBuilder());
    RelNode hidden = texts.hide(rel);
    return texts.show(TopDownGeneralDecorrelator.decorrelateQuery(hidden, builder()));
  }

  private RelBuilder builder() {
    return PLAIN.create(cluster, reader);
  }

  /** Applies rules that make relations as they are, until none of them changes anything. */
  private static RelNode apply(RelNode rel, RelRule.Config... rules) {
    HepProgramBuilder program = new HepProgramBuilder();
    program.addMatchOrder(HepMatchOrder.BOTTOM_UP);
    List<RelOptRule> all = new ArrayList<>();
    for (RelRule.Config rule : rules) {
      all.add(rule.withRelBuilderFactory(PLAIN).toRule());
    }
    program.addRuleCollection(all);
    HepPlanner planner = new HepPlanner(program.build());
    planner.setRoot(rel);
    return planner.findBestExp();
  }

  /** Moves semi-joins with few rows below the joins whose rows they take away. */
  private final class SmallSemiJoins extends RelHomogeneousShuttle {
    @Override
    public RelNode visit(RelNode other) {
      RelNode rel = super.visit(other);
      boolean moves =
          rel instanceof Join join
              && join.getJoinType() == JoinRelType.SEMI
              && SMALL * estimates.rows(join.getRight()) < estimates.rows(join.getLeft());
      return moves
          ? apply(
              rel,
              SemiJoinProjectTransposeRule.Config.DEFAULT,
              SemiJoinJoinTransposeRule.Config.DEFAULT)
          : rel;
    }
  }

  /** Takes out what all alternatives of a condition have in common; joins need it to have keys. */
  private static final class Factors extends RelHomogeneousShuttle {
    @Override
    public RelNode visit(RelNode other) {
      RelNode rel = super.visit(other);
      return rel instanceof Filter filter
          ? filter.copy(
              filter.getTraitSet(),
              filter.getInput(),
              RexUtil.pullFactors(filter.getCluster().getRexBuilder(), filter.getCondition()))
          : rel;
    }
  }
}
