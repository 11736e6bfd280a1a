package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.RelHomogeneousShuttle;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.Join;
import org.apache.calcite.rel.core.JoinRelType;
import org.apache.calcite.rel.logical.LogicalFilter;
import org.apache.calcite.rel.logical.LogicalJoin;
import org.apache.calcite.rel.logical.LogicalProject;
import org.apache.calcite.rex.RexBuilder;
import org.apache.calcite.rex.RexInputRef;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexShuttle;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.sql.SqlKind;
import org.ysteron.sql.keep.Ordering;

/**
 * Orders inner joins of several relations: the tree with the fewest rows in all of its joins
 * together, by dynamic programming over sets of relations (Moerkotte, Neumann: Analysis of two
 * existing and one new dynamic programming algorithm, VLDB 2006); from more than {@value #MOST}
 * relations on by joining those first whose result is smallest. Relations that no condition
 * connects are joined last.
 */
final class JoinOrder extends RelHomogeneousShuttle {
  private static final int MOST = 11;

  private final Estimates estimates;

  JoinOrder(Estimates estimates) {
    this.estimates = estimates;
  }

  @Override
  public RelNode visit(RelNode rel) {
    return rel instanceof Join join && join.getJoinType() == JoinRelType.INNER
        ? new Ordering(join).ordered()
        : super.visit(rel);
  }

  /** One tree of inner joins. */
  private final class Ordering {
    private final RelNode top;
    private final RexBuilder builder;
    private final List<RelNode> inputs = new ArrayList<>();
    private final List<Integer> offsets = new ArrayList<>();
    private final List<RexNode> conditions = new ArrayList<>();
    private final List<Integer> needed = new ArrayList<>();

    Ordering(Join join) {
      this.top = join;
      this.builder = join.getCluster().getRexBuilder();
      flatten(join, 0);
      for (RexNode condition : conditions) {
        needed.add(inputsOf(condition));
      }
      for (int c = 0; c < conditions.size(); c++) {
        if (conditions.get(c).getKind() == SqlKind.OR && Integer.bitCount(needed.get(c)) > 1) {
          imply(conditions.get(c), needed.get(c));
        }
      }
    }

    /** Filters each relation by what alternatives on several relations all say of it alone. */
    private void imply(RexNode alternatives, int bits) {
      for (int input = 0; input < inputs.size(); input++) {
        List<RexNode> ofInput = new ArrayList<>();
        boolean each = (bits & (1 << input)) != 0;
        for (RexNode alternative : RelOptUtil.disjunctions(alternatives)) {
          int only = 1 << input;
          List<RexNode> alone =
              RelOptUtil.conjunctions(alternative).stream()
                  .filter(part -> inputsOf(part) == only)
                  .toList();
          each &= !alone.isEmpty();
          ofInput.add(RexUtil.composeConjunction(builder, alone));
        }
        if (each) {
          RexNode implied =
              RexUtil.shift(RexUtil.composeDisjunction(builder, ofInput), -offsets.get(input));
          inputs.set(input, LogicalFilter.create(inputs.get(input), implied));
        }
      }
    }

    private void flatten(RelNode rel, int offset) {
      if (rel instanceof Join join && join.getJoinType() == JoinRelType.INNER) {
        int lefts = join.getLeft().getRowType().getFieldCount();
        flatten(join.getLeft(), offset);
        flatten(join.getRight(), offset + lefts);
        for (RexNode part : RelOptUtil.conjunctions(join.getCondition())) {
          conditions.add(RexUtil.shift(part, offset));
        }
      } else {
        inputs.add(rel.accept(JoinOrder.this));
        offsets.add(offset);
      }
    }

    /** The relations that a condition has fields of, as bits. */
    private int inputsOf(RexNode condition) {
      int bits = 0;
      for (int field : RelOptUtil.InputFinder.bits(condition)) {
        bits |= 1 << input(field);
      }
      return bits;
    }

    private int input(int field) {
      int input = 0;
      while (input + 1 < offsets.size() && offsets.get(input + 1) <= field) {
        input++;
      }
      return input;
    }

    RelNode ordered() {
      if (inputs.size() > Integer.SIZE - 2) {
        return top.copy(top.getTraitSet(), top.getInputs());
      }
      Tree best = inputs.size() <= MOST ? least() : smallestFirst();
      Part made = made(best);
      List<RexNode> fields = new ArrayList<>();
      List<String> names = top.getRowType().getFieldNames();
      for (int field = 0; field < names.size(); field++) {
        fields.add(builder.makeInputRef(made.rel, made.places[field]));
      }
      return RexUtil.isIdentity(fields, made.rel.getRowType())
          ? made.rel
          : LogicalProject.create(made.rel, List.of(), fields, names, java.util.Set.of());
    }

    /** Relations joined to one. */
    private record Tree(int bits, double rows, double cost, Tree left, Tree right) {}

    private double share(int bits, int left, int right) {
      List<RexNode> added = new ArrayList<>();
      for (int c = 0; c < conditions.size(); c++) {
        int of = needed.get(c);
        if ((of & bits) == of && (of & left) != of && (of & right) != of) {
          added.add(conditions.get(c));
        }
      }
      return estimates.matching(added, this::place);
    }

    private boolean connects(int left, int right) {
      int bits = left | right;
      for (int of : needed) {
        if ((of & bits) == of && (of & left) != 0 && (of & right) != 0) {
          return true;
        }
      }
      return false;
    }

    private Estimates.Place place(int field) {
      int input = input(field);
      return new Estimates.Place(inputs.get(input), field - offsets.get(input));
    }

    private Tree leaf(int input) {
      return new Tree(1 << input, estimates.rows(inputs.get(input)), 0, null, null);
    }

    private Tree joined(Tree left, Tree right) {
      int bits = left.bits | right.bits;
      double rows = Math.max(1, left.rows * right.rows * share(bits, left.bits, right.bits));
      double kept = Math.min(left.rows, right.rows);
      double cost = left.cost + right.cost + rows + kept;
      return new Tree(bits, rows, cost, left, right);
    }

    private Tree least() {
      Tree connected = least(true);
      return connected == null ? least(false) : connected;
    }

    /** The best tree; null when only connected relations are joined and not all of them are. */
    private Tree least(boolean connected) {
      Tree[] best = new Tree[1 << inputs.size()];
      for (int i = 0; i < inputs.size(); i++) {
        best[1 << i] = leaf(i);
      }
      for (int bits = 1; bits < best.length; bits++) {
        best[bits] = best[bits] == null ? least(bits, best, connected) : best[bits];
      }
      return best[best.length - 1];
    }

    private Tree least(int bits, Tree[] best, boolean connected) {
      Tree least = null;
      for (int left = (bits - 1) & bits; left > 0; left = (left - 1) & bits) {
        int right = bits ^ left;
        boolean isTree = best[left] != null && best[right] != null;
        if (left < right || !isTree || (connected && !connects(left, right))) {
          continue;
        }
        Tree tree = joined(best[left], best[right]);
        least = least == null || tree.cost < least.cost ? tree : least;
      }
      return least;
    }

    private Tree smallestFirst() {
      List<Tree> left = new ArrayList<>();
      for (int i = 0; i < inputs.size(); i++) {
        left.add(leaf(i));
      }
      while (left.size() > 1) {
        Tree least = null;
        for (int i = 0; i < left.size(); i++) {
          for (int j = i + 1; j < left.size(); j++) {
            Tree tree = joined(left.get(i), left.get(j));
            boolean connected = connects(left.get(i).bits, left.get(j).bits);
            boolean better =
                least == null
                    || (connected && !connects(least.left.bits, least.right.bits))
                    || (connected == connects(least.left.bits, least.right.bits)
                        && tree.rows < least.rows);
            least = better ? tree : least;
          }
        }
        left.remove(least.left);
        left.remove(least.right);
        left.add(least);
      }
      return left.get(0);
    }

    /** A relation, and where in it the fields of the original tree are; -1 where they are not. */
    @SuppressWarnings("ArrayRecordComponent") // never compared
    private record Part(RelNode rel, int[] places) {}

    private Part made(Tree tree) {
      int[] places = new int[top.getRowType().getFieldCount()];
      Arrays.fill(places, -1);
      if (tree.left == null) {
        int input = Integer.numberOfTrailingZeros(tree.bits);
        RelNode rel = inputs.get(input);
        for (int f = 0; f < rel.getRowType().getFieldCount(); f++) {
          places[offsets.get(input) + f] = f;
        }
        return new Part(rel, places);
      }
      Part left = made(tree.left);
      Part right = made(tree.right);
      int lefts = left.rel.getRowType().getFieldCount();
      for (int f = 0; f < places.length; f++) {
        places[f] =
            left.places[f] >= 0
                ? left.places[f]
                : right.places[f] >= 0 ? lefts + right.places[f] : -1;
      }
      List<RexNode> on = new ArrayList<>();
      for (int c = 0; c < conditions.size(); c++) {
        int of = needed.get(c);
        boolean inside = (of & tree.bits) == of;
        boolean below = of != 0 && ((of & tree.left.bits) == of || (of & tree.right.bits) == of);
        if (inside && !below && (of != 0 || tree.bits == (1 << inputs.size()) - 1)) {
          on.add(conditions.get(c).accept(new Moving(places)));
        }
      }
      RelNode rel =
          LogicalJoin.create(
              left.rel,
              right.rel,
              List.of(),
              RexUtil.composeConjunction(builder, on),
              java.util.Set.of(),
              JoinRelType.INNER);
      return new Part(rel, places);
    }

    /** Finds fields where they are now. */
    private static final class Moving extends RexShuttle {
      private final int[] places;

      Moving(int[] places) {
        this.places = places;
      }

      @Override
      public RexNode visitInputRef(RexInputRef field) {
        return new RexInputRef(places[field.getIndex()], field.getType());
      }
    }
  }
}
