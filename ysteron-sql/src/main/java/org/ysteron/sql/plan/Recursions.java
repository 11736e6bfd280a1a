package org.ysteron.sql.plan;

import org.apache.calcite.plan.RelOptTable;
import org.apache.calcite.rel.core.RepeatUnion;
import org.apache.calcite.rel.core.TableScan;
import org.apache.calcite.schema.TransientTable;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Step;
import org.ysteron.sql.run.RecursionStep;
import org.ysteron.sql.run.RoundStep;

/** Makes steps of WITH RECURSIVE. */
final class Recursions {
  private Recursions() {}

  /** Whether a scan reads the rows of the round before. */
  static boolean isRound(TableScan scan) {
    return scan.getTable().unwrap(TransientTable.class) != null;
  }

  static Stage round(TableScan scan) {
    return Stage.of(
        new RoundStep(
            key(scan.getTable()), name(scan.getTable()), Made.schema(RelTypes.ofFields(scan))));
  }

  static Stage of(RepeatUnion recursion, Stages stages) {
    Step first = Stages.alike(stages.of(recursion.getSeedRel()), recursion);
    Step round = Stages.alike(stages.of(recursion.getIterativeRel()), recursion);
    RelOptTable table = recursion.getTransientTable();
    return Stage.of(
        new RecursionStep(
            first,
            round,
            key(table),
            recursion.all,
            name(table),
            Made.schema(RelTypes.ofFields(recursion))));
  }

  private static Object key(RelOptTable table) {
    return table.unwrapOrThrow(TransientTable.class);
  }

  private static String name(RelOptTable table) {
    return String.join(".", table.getQualifiedName());
  }
}
