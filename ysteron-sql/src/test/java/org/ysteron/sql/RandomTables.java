package org.ysteron.sql;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Random;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Expression;

/** Tables of random rows: few different values, so that they meet, and odd ones. */
final class RandomTables {
  private static final List<String> TEXTS =
      List.of("", "a", "ab", "abc", "b", "😀", "\uFFFD", "Zoë", "a😀", "z");
  private static final List<Double> NUMBERS =
      List.of(0.0, -0.0, 0.5, 1.0, -2.5, 1e300, Double.NaN, Double.POSITIVE_INFINITY);

  private final Random random;

  RandomTables(Random random) {
    this.random = random;
  }

  static Schema schema() {
    return Schema.of(
        Field.of("i", Types.INTEGER),
        Field.of("b", Types.BIGINT),
        Field.of("d", Types.decimal(9, 2)),
        Field.of("w", Types.decimal(30, 4)),
        Field.of("t", Types.text(20)),
        Field.of("x", Types.DOUBLE),
        Field.of("taken", Types.DATE),
        Field.of("ts", Types.TIMESTAMP),
        Field.of("o", Types.BOOLEAN));
  }

  /** Makes a table of so many rows, in some commits, of which some rows are deleted again. */
  void create(Lake lake, String name, int rows) {
    Table table = lake.createTable(name, schema());
    int left = rows;
    while (left > 0) {
      int now = Math.min(left, 1 + random.nextInt(rows));
      try (Append append = table.append()) {
        for (int i = 0; i < now; i++) {
          append.add(row());
        }
        append.commit();
      }
      left -= now;
    }
    if (random.nextBoolean()) {
      table.delete().where(Expression.column("i").equalTo(3)).run();
    }
  }

  private Object[] row() {
    Object[] row = {
      random.nextInt(8),
      (long) random.nextInt(8),
      BigDecimal.valueOf(random.nextInt(800), 2),
      new BigDecimal(new BigInteger(91, random).subtract(BigInteger.ONE.shiftLeft(90)), 4),
      TEXTS.get(random.nextInt(TEXTS.size())),
      NUMBERS.get(random.nextInt(NUMBERS.size())),
      LocalDate.of(2026, 3, 1 + random.nextInt(9)),
      LocalDateTime.of(2026, 1 + random.nextInt(4), 1, 12, 0, 0, 1000 * random.nextInt(3)),
      random.nextBoolean()
    };
    for (int c = 0; c < row.length; c++) {
      row[c] = random.nextInt(9) == 0 ? null : row[c];
    }
    return row;
  }
}
