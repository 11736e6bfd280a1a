package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.apache.calcite.plan.RelOptUtil;
import org.apache.calcite.rel.RelHomogeneousShuttle;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.core.Project;
import org.apache.calcite.rel.logical.LogicalProject;
import org.apache.calcite.rel.type.RelDataTypeField;
import org.apache.calcite.rex.RexInputRef;
import org.apache.calcite.rex.RexNode;
import org.apache.calcite.rex.RexUtil;
import org.apache.calcite.util.ImmutableBitSet;
import org.apache.calcite.util.mapping.MappingType;
import org.apache.calcite.util.mapping.Mappings;

/** Takes the fields away below window functions that they do not need: a window keeps all. */
final class NarrowWindows extends RelHomogeneousShuttle {
  @Override
  public RelNode visit(RelNode other) {
    RelNode rel = super.visit(other);
    return rel instanceof Project project && project.containsOver() ? narrowed(project) : rel;
  }

  private static RelNode narrowed(Project project) {
    RelNode input = project.getInput();
    ImmutableBitSet used = RelOptUtil.InputFinder.bits(project.getProjects(), null);
    int fields = input.getRowType().getFieldCount();
    if (used.cardinality() == fields || used.isEmpty()) {
      return project;
    }
    List<RexNode> kept = new ArrayList<>();
    List<String> names = new ArrayList<>();
    Mappings.TargetMapping places =
        Mappings.create(MappingType.INVERSE_SURJECTION, fields, used.cardinality());
    for (int field : used) {
      RelDataTypeField of = input.getRowType().getFieldList().get(field);
      places.set(field, kept.size());
      kept.add(new RexInputRef(field, of.getType()));
      names.add(of.getName());
    }
    RelNode narrow = LogicalProject.create(input, List.of(), kept, names, Set.of());
    return project.copy(
        project.getTraitSet(),
        narrow,
        RexUtil.apply(places, project.getProjects()),
        project.getRowType());
  }
}
