package org.ysteron.sql.catalog;

import java.util.List;
import java.util.Optional;
import org.apache.calcite.rel.type.RelDataType;
import org.apache.calcite.rel.type.RelDataTypeFactory;
import org.apache.calcite.schema.impl.AbstractTable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.sql.keep.Step;

/** Something that a query can name as a table, as the planner knows it. */
public abstract class PlannedTable extends AbstractTable {
  private static final double FEW = 10;

  /** The columns. */
  public abstract Schema columns();

  /** About how many rows it has. */
  public abstract double rows();

  /** What makes all its rows. */
  public abstract Step step();

  /** About how many different values a column has. */
  public double distinct(int column) {
    return Math.max(1, rows() / FEW);
  }

  /** The least and the greatest value of a column of numbers or dates (in days), if known. */
  public Optional<double[]> range(int column) {
    return Optional.empty();
  }

  public final List<String> names() {
    return columns().columns().stream().map(Field::name).toList();
  }

  @Override
  public final RelDataType getRowType(RelDataTypeFactory factory) {
    return RelTypes.of(columns().struct(), factory);
  }
}
