package org.ysteron.sql.plan;

import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
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
import org.apache.calcite.rel.rules.CoreRules;
import org.apache.calcite.rex.RexBuilder;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.validate.SqlConformanceEnum;
import org.apache.calcite.sql.validate.SqlValidator;
import org.apache.calcite.sql.validate.SqlValidatorUtil;
import org.apache.calcite.sql2rel.RelFieldTrimmer;
import org.apache.calcite.sql2rel.SqlToRelConverter;
import org.apache.calcite.sql2rel.StandardConvertletTable;
import org.apache.calcite.sql2rel.TopDownGeneralDecorrelator;
import org.apache.calcite.tools.RelBuilder;
import org.apache.calcite.tools.RelBuilderFactory;
import org.ysteron.sql.catalog.LakeCatalog;
import org.ysteron.sql.catalog.LakeFunctions;
import org.ysteron.sql.catalog.LakeNames;
import org.ysteron.sql.catalog.LakeTypeSystem;

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
    SqlValidator validator =
        SqlValidatorUtil.newValidator(
            new LakeFunctions(),
            reader,
            types,
            SqlValidator.Config.DEFAULT
                .withIdentifierExpansion(true)
                .withConformance(SqlConformanceEnum.DEFAULT));
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
            CoreRules.FILTER_SUB_QUERY_TO_MARK_CORRELATE,
            CoreRules.PROJECT_SUB_QUERY_TO_MARK_CORRELATE,
            CoreRules.JOIN_SUB_QUERY_TO_CORRELATE);
    rel = decorrelated(rel);
    rel =
        apply(
            rel,
            CoreRules.MARK_TO_SEMI_OR_ANTI_JOIN_RULE,
            CoreRules.FILTER_MERGE,
            CoreRules.PROJECT_MERGE);
    rel =
        apply(
            rel,
            CoreRules.FILTER_INTO_JOIN,
            CoreRules.JOIN_CONDITION_PUSH,
            CoreRules.FILTER_PROJECT_TRANSPOSE,
            CoreRules.FILTER_AGGREGATE_TRANSPOSE,
            CoreRules.FILTER_CORRELATE,
            CoreRules.FILTER_MERGE,
            CoreRules.PROJECT_MERGE,
            CoreRules.PROJECT_REMOVE,
            CoreRules.JOIN_PUSH_EXPRESSIONS);
    rel = rel.accept(new SmallSemiJoins()).accept(new JoinOrder(estimates));
    rel = rel.accept(new NarrowWindows());
    rel = apply(rel, CoreRules.PROJECT_TO_LOGICAL_PROJECT_AND_WINDOW);
    rel = new RelFieldTrimmer(null, builder()).trim(rel);
    return apply(rel, CoreRules.PROJECT_MERGE, CoreRules.PROJECT_REMOVE, CoreRules.FILTER_MERGE);
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

  private static RelNode apply(RelNode rel, RelOptRule... rules) {
    HepProgramBuilder program = new HepProgramBuilder();
    program.addMatchOrder(HepMatchOrder.BOTTOM_UP);
    program.addRuleCollection(Arrays.stream(rules).map(Planner::plain).toList());
    HepPlanner planner = new HepPlanner(program.build());
    planner.setRoot(rel);
    return planner.findBestExp();
  }

  /** A rule that makes relations as they are. */
  private static RelOptRule plain(RelOptRule rule) {
    return rule instanceof RelRule<?> of
        ? ((RelRule.Config) of.config).withRelBuilderFactory(PLAIN).toRule()
        : rule;
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
          ? apply(rel, CoreRules.SEMI_JOIN_PROJECT_TRANSPOSE, CoreRules.SEMI_JOIN_JOIN_TRANSPOSE)
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
