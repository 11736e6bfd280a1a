package org.ysteron.examples;

import java.awt.Color;
import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Date;
import java.util.List;
import java.util.Map;
import java.util.TimeZone;
import java.util.TreeMap;
import org.knowm.xchart.BitmapEncoder;
import org.knowm.xchart.VectorGraphicsEncoder;
import org.knowm.xchart.XYChart;
import org.knowm.xchart.XYChartBuilder;
import org.knowm.xchart.XYSeries;
import org.knowm.xchart.style.Styler;
import org.knowm.xchart.style.markers.SeriesMarkers;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Results;
import org.ysteron.expr.Condition;
import org.ysteron.history.ChangeSummary;
import org.ysteron.history.ChangedRow;
import org.ysteron.history.Changes;

/**
 * What did that correction do? It was meant for one gauge, and shifted all of them by 12 cm. The
 * summary of the changes shows it, and a figure, as PNG and SVG, the levels of another gauge before
 * and after it.
 */
public final class WrongCorrection {
  private static final Color BEFORE = new Color(0x1f, 0x4e, 0x79);
  private static final Color AFTER = new Color(0xc0, 0x39, 0x2b);
  private static final String OTHER = "ORR-07";

  private WrongCorrection() {}

  /** Takes an empty directory for the lake and the figure, or makes a temporary one. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    TideOffice office = new TideOffice(7, 12);
    try (Lake lake = Lake.create(directory)) {
      Table readings = lake.createTable("tide.readings", TideOffice.readingsSchema());
      try (Append append = readings.append()) {
        office.readings(0, 2, 10, append::addRecord);
        append.commit("two days");
      }
      long before = readings.now().version();
      readings
          .update()
          .all() // it should have been ORR-03
          .setBy(
              "level_cm",
              row ->
                  row.isNull("level_cm")
                      ? null
                      : row.getDecimal("level_cm").add(BigDecimal.valueOf(12)))
          .run("datum of ORR-03");
      Changes changes = readings.between(before, before + 1);
      ChangeSummary.OfColumn level = changes.summary().columns().get(0);
      ChangeSummary.Numbers shift = level.numbers().orElseThrow();
      System.out.printf(
          "%d rows were updated; %s changed in %d of them, by %s at least and %s at most%n",
          changes.count().updated(),
          level.column(),
          level.differing(),
          shift.least().toPlainString(),
          shift.greatest().toPlainString());
      System.setProperty("java.awt.headless", "true");
      save(
          directory.resolve("levels"),
          chart(changes.where(Condition.column("gauge_id").equalTo(OTHER))));
      System.out.println("figure: levels.png and .svg in " + directory);
    }
  }

  private static XYChart chart(Changes changes) {
    TreeMap<Instant, double[]> levels = new TreeMap<>();
    try (Results<ChangedRow> rows = changes.columns("taken_at", "level_cm").rows()) {
      for (ChangedRow row : rows) {
        levels.put(
            row.after().getInstant("taken_at"),
            new double[] {
              row.before().getDecimal("level_cm").doubleValue(),
              row.after().getDecimal("level_cm").doubleValue()
            });
      }
    }
    XYChart chart =
        new XYChartBuilder()
            .width(1280)
            .height(480)
            .title(OTHER + " before and after a correction that was meant for ORR-03")
            .xAxisTitle("taken at (UTC)")
            .yAxisTitle("level in cm")
            .build();
    chart.getStyler().setChartBackgroundColor(Color.WHITE);
    chart.getStyler().setLegendPosition(Styler.LegendPosition.OutsideS);
    chart.getStyler().setLegendLayout(Styler.LegendLayout.Horizontal);
    chart.getStyler().setDatePattern("d MMM HH:mm");
    chart.getStyler().setTimezone(TimeZone.getTimeZone("UTC"));
    add(chart, "before", levels, 0, BEFORE);
    add(chart, "after: 12 cm higher", levels, 1, AFTER);
    return chart;
  }

  private static void add(
      XYChart chart, String name, Map<Instant, double[]> levels, int which, Color color) {
    List<Date> times = new ArrayList<>();
    List<Double> values = new ArrayList<>();
    levels.forEach(
        (time, both) -> {
          times.add(Date.from(time));
          values.add(both[which]);
        });
    XYSeries series = chart.addSeries(name, times, values);
    series.setMarker(SeriesMarkers.NONE);
    series.setLineColor(color);
    series.setLineWidth(2f);
  }

  private static void save(Path file, XYChart chart) throws IOException {
    BitmapEncoder.saveBitmap(chart, file.toString(), BitmapEncoder.BitmapFormat.PNG);
    VectorGraphicsEncoder.saveVectorGraphic(
        chart, file.toString(), VectorGraphicsEncoder.VectorGraphicsFormat.SVG);
  }
}
