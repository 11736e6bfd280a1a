package org.ysteron.bench;

import io.trino.tpch.TpchColumn;
import io.trino.tpch.TpchColumnType;
import io.trino.tpch.TpchEntity;
import io.trino.tpch.TpchTable;
import java.io.IOException;
import java.io.InputStream;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;

/** The eight tables of TPC-H (tpc.org) and its queries, with the parameters of their validation. */
final class TpchTables {
  /** The namespace of the tables. */
  static final String SCHEMA = "tpch";

  private TpchTables() {}

  /** Makes all tables in a lake. */
  static void create(Lake lake, double scale) {
    TpchTable.getTables().forEach(table -> create(lake, table, scale));
  }

  private static <E extends TpchEntity> void create(Lake lake, TpchTable<E> from, double scale) {
    List<TpchColumn<E>> columns = from.getColumns();
    List<Field> fields = new ArrayList<>();
    for (TpchColumn<E> column : columns) {
      fields.add(Field.of(column.getColumnName(), type(column)).notNull());
    }
    Table table = lake.createTable(SCHEMA + "." + from.getTableName(), Schema.of(fields));
    try (Append append = table.append()) {
      Object[] row = new Object[columns.size()];
      for (E entity : from.createGenerator(scale, 1, 1)) {
        for (int c = 0; c < row.length; c++) {
          row[c] = value(columns.get(c), entity);
        }
        append.add(row.clone());
      }
      append.commit();
    }
  }

  private static Type type(TpchColumn<?> column) {
    TpchColumnType type = column.getType();
    return switch (type.getBase()) {
      case IDENTIFIER -> Types.BIGINT;
      case INTEGER -> Types.INTEGER;
      case DATE -> Types.DATE;
      case DOUBLE -> Types.decimal(15, 2);
      case VARCHAR -> Types.text((int) (long) type.getPrecision().orElse(199L));
    };
  }

  private static <E extends TpchEntity> Object value(TpchColumn<E> column, E entity) {
    return switch (column.getType().getBase()) {
      case IDENTIFIER -> column.getIdentifier(entity);
      case INTEGER -> column.getInteger(entity);
      case DATE -> LocalDate.ofEpochDay(column.getDate(entity));
      case DOUBLE -> BigDecimal.valueOf(Math.round(column.getDouble(entity) * 100), 2);
      case VARCHAR -> column.getString(entity);
    };
  }

  /** Has another engine see the data files of the tables. */
  static void show(Lake lake, Path directory, Statement duck) throws SQLException {
    for (TpchTable<?> table : TpchTable.getTables()) {
      String files =
          lake.table(SCHEMA + "." + table.getTableName()).now().files().stream()
              .map(file -> "'" + directory.resolve(file.name()) + "'")
              .collect(Collectors.joining(",", "read_parquet([", "])"));
      duck.execute(
          "create or replace view %s as select * from %s".formatted(table.getTableName(), files));
    }
  }

  /** The 22 queries, in their order. */
  static List<String> queries() throws IOException {
    try (InputStream in = TpchTables.class.getResourceAsStream("tpch.sql")) {
      String text = new String(in.readAllBytes(), StandardCharsets.UTF_8);
      return List.of(text.strip().split(";\\s*"));
    }
  }
}
