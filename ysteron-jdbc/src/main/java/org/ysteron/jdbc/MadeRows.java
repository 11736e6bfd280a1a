package org.ysteron.jdbc;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.sql.text.SqlColumns;

/** A result whose rows are made in memory. */
final class MadeRows {
  private final Schema columns;
  private final List<VectorBuilder> builders = new ArrayList<>();
  private int count;

  MadeRows(Schema columns) {
    this.columns = columns;
    columns.columns().forEach(column -> builders.add(new VectorBuilder(column.type())));
  }

  /** {@code columns}: as SQL defines them, though their names may be words of SQL. */
  MadeRows(String columns) {
    this(SqlColumns.parse(columns.replaceAll("(^|, )(\\w+) ", "$1\"$2\" ")));
  }

  MadeRows add(@Nullable Object... values) {
    for (int c = 0; c < builders.size(); c++) {
      builders.get(c).add(values[c]);
    }
    count++;
    return this;
  }

  LakeResultSet result(@Nullable LakeStatement statement) {
    List<Vector> vectors = builders.stream().map(VectorBuilder::build).toList();
    Batch all = new Batch(columns.struct(), count, vectors);
    boolean[] given = {count == 0};
    Results<Batch> batches =
        new Results<>(
            () -> {
              boolean isFirst = !given[0];
              given[0] = true;
              return isFirst ? all : null;
            },
            () -> {});
    return LakeResultSet.made(
        statement, columns, columns.columns().stream().map(Field::name).toList(), batches);
  }
}
