package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import org.apache.calcite.rel.RelHomogeneousShuttle;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.RelVisitor;
import org.apache.calcite.rel.core.Correlate;
import org.apache.calcite.rel.type.RelDataType;
import org.apache.calcite.rex.RexBuilder;
import org.apache.calcite.rex.RexDynamicParam;
import org.apache.calcite.rex.RexLiteral;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexShuttle;
import org.apache.calcite.sql.type.SqlTypeUtil;
import org.jspecify.annotations.Nullable;

/**
 * Texts of a query that the planner must not compare: while it rewrites they are parameters, behind
 * those of the query. For one query.
 */
final class HiddenTexts {
  private static final int FIRST = 1 << 20;

  private final RexBuilder builder;
  private final List<RexLiteral> texts = new ArrayList<>();

  HiddenTexts(RexBuilder builder) {
    this.builder = builder;
  }

  /** Whether rows of one relation are made for rows of another. */
  static boolean hasCorrelate(RelNode rel) {
    boolean[] has = {false};
    new RelVisitor() {
      @Override
      public void visit(RelNode node, int ordinal, @Nullable RelNode parent) {
        has[0] |= node instanceof Correlate;
        super.visit(node, ordinal, parent);
      }
    }.go(rel);
    return has[0];
  }

  RelNode hide(RelNode rel) {
    return each(
        rel,
        new RexShuttle() {
          @Override
          public RexNode visitLiteral(RexLiteral literal) {
            RelDataType type = literal.getType();
            if (!SqlTypeUtil.inCharFamily(type) || literal.isNull()) {
              return literal;
            }
            texts.add(literal);
            return builder.makeDynamicParam(type, FIRST + texts.size() - 1);
          }
        });
  }

  RelNode show(RelNode rel) {
    return each(
        rel,
        new RexShuttle() {
          @Override
          public RexNode visitDynamicParam(RexDynamicParam text) {
            return text.getIndex() < FIRST ? text : texts.get(text.getIndex() - FIRST);
          }
        });
  }

  private static RelNode each(RelNode rel, RexShuttle shuttle) {
    return rel.accept(
        new RelHomogeneousShuttle() {
          @Override
          public RelNode visit(RelNode other) {
            return super.visit(other).accept(shuttle);
          }
        });
  }
}
