package first;

import static org.ysteron.expr.Condition.column;

import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import org.ysteron.EditableTable;
import org.ysteron.Lake;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.Transaction;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.WriteResult;

/** Makes a lake in the directory given, writes to it, corrects it, and reads what there was. */
public final class FirstLake {
  private FirstLake() {}

  public static void main(String[] args) {
    Schema schema =
        Schema.of(
                Field.of("gauge_id", Types.text(12)),
                Field.of("taken_at", Types.INSTANT),
                Field.of("level_cm", Types.decimal(7, 1)))
            .withKey("gauge_id", "taken_at");
    try (Lake opened = Lake.create(Path.of(args[0]))) {
      LakeHandle lake = opened.by("ada", "first-lake");
      Table readings =
          lake.createTable(
              "tide.readings",
              schema,
              TableSettings.DEFAULTS.fileBytes(64L << 20),
              LayoutPlan.none().everyTime("taken_at", 1, ChronoUnit.MONTHS));
      Instant noon = Instant.parse("2026-03-01T12:00:00Z");
      try (var append = readings.append()) {
        append.add("ORR-01", noon, new BigDecimal("412.5")).add("ORR-07", noon, 390);
        System.out.println("appended, entry " + append.commit("noon").entry().getAsLong());
      }
      System.out.println(correct(readings));
      try (Transaction work = lake.begin()) {
        System.out.println(correct(work.table("tide.readings")));
        work.commit("corrected again");
      }
      readings.now().scan().rows().forEach(FirstLake::print);
      readings.at(1).scan().rows().forEach(FirstLake::print);
    }
  }

  /** Works on a table of a lake and on one of a transaction alike. */
  private static String correct(EditableTable table) {
    WriteResult result =
        table
            .update()
            .where(column("gauge_id").equalTo("ORR-07"))
            .set("level_cm", column("level_cm").plus(10))
            .run("its zero was wrong");
    return result.report().rowsUpdated() + " row corrected";
  }

  private static void print(org.ysteron.data.Row row) {
    System.out.println(row.getString("gauge_id") + " " + row.getDecimal("level_cm"));
  }
}
