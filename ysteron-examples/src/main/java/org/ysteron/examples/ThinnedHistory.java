package org.ysteron.examples;

import java.awt.Color;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
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
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.maintenance.ExpiryReport;
import org.ysteron.maintenance.SweepReport;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.report.TableVersion;
import org.ysteron.store.LocalStore;

/**
 * Four months of corrections, six a day, of which a rule keeps few: all of the last week, one each
 * day of the last month, one each week of the last year. With a figure, as PNG and SVG, of the
 * versions over time and of those that are kept.
 */
public final class ThinnedHistory {
  private static final int DAYS = 120;
  private static final int A_DAY = 6;
  private static final Instant START = Instant.parse("2026-03-02T00:00:00Z");
  private static final Color GONE = new Color(0x8a, 0x9b, 0xa8);
  private static final Color KEPT = new Color(0xc0, 0x39, 0x2b);
  private static final Color NAMED = new Color(0x1f, 0x6f, 0x50);

  private ThinnedHistory() {}

  /** A clock that stands where it was set. */
  private static final class SetClock extends Clock {
    private Instant now = START;

    @Override
    public Instant instant() {
      return now;
    }

    @Override
    public ZoneId getZone() {
      return ZoneOffset.UTC;
    }

    @Override
    public Clock withZone(ZoneId zone) {
      return this;
    }
  }

  /** Takes an empty directory for the lake and the figure, or makes a temporary one. */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    SetClock clock = new SetClock();
    try (Lake lake =
        Lake.create(new LocalStore(directory), LakeOptions.DEFAULTS.clock(clock).threads(1))) {
      Table calls =
          lake.createTable(
              "tide.calls",
              Schema.of(Field.of("vessel", Types.text()), Field.of("correction", Types.INTEGER)));
      for (int i = 1; i <= DAYS * A_DAY; i++) {
        clock.now = START.plus(Duration.ofHours(24L / A_DAY * i));
        try (Append append = calls.append()) {
          append.add("Marrow Lass", i);
          append.commit();
        }
      }
      calls.bookmark("audit", DAYS * A_DAY / 3);
      List<TableVersion> made = calls.history(Integer.MAX_VALUE);
      Retention rules =
          Retention.EVERYTHING
              .andFor(Period.ofDays(7))
              .andOneEach(Retention.Step.DAY, Period.ofMonths(1))
              .andOneEach(Retention.Step.WEEK, Period.ofYears(1));
      System.out.println("keep " + rules);
      ExpiryReport report = calls.expire().keeping(rules).run();
      List<TableVersion> kept = calls.history(Integer.MAX_VALUE);
      System.out.printf(
          "%d versions were made, %d went, %d are kept, 1 of them by a bookmark%n",
          made.size(), report.versions(), kept.size());
      SweepReport swept = lake.sweep().now().withEntries().run();
      System.out.printf(
          "%d objects were swept, %d KiB%n", swept.all().objects(), swept.all().bytes() >> 10);
      System.setProperty("java.awt.headless", "true");
      save(directory.resolve("kept"), chart(made, kept, calls.atBookmark("audit").version()));
      System.out.println("figure: kept.png and .svg in " + directory);
    }
  }

  private static double day(TableVersion version) {
    return Duration.between(START, version.commit().time()).toMinutes() / 1440.0;
  }

  private static XYChart chart(List<TableVersion> made, List<TableVersion> kept, long named) {
    XYChart chart =
        new XYChartBuilder()
            .width(1280)
            .height(360)
            .title(
                "Versions over time: all of the last week, one each day of a month, one each week")
            .xAxisTitle("day of the commit; the last is today")
            .build();
    chart.getStyler().setChartBackgroundColor(Color.WHITE);
    chart.getStyler().setPlotGridHorizontalLinesVisible(false);
    chart.getStyler().setLegendPosition(Styler.LegendPosition.OutsideS);
    chart.getStyler().setLegendLayout(Styler.LegendLayout.Horizontal);
    chart.getStyler().setYAxisMin(0.0).setYAxisMax(4.0);
    chart.getStyler().setYAxisTicksVisible(false);
    chart.getStyler().setXAxisMin(0.0).setXAxisMax(DAYS + 1.0);
    add(chart, made.size() + " made", made, 3, GONE);
    add(chart, kept.size() + " kept", kept, 2, KEPT);
    List<TableVersion> marked = kept.stream().filter(v -> v.version() == named).toList();
    add(chart, "kept by a bookmark only", marked, 1, NAMED);
    return chart;
  }

  private static void add(
      XYChart chart, String name, List<TableVersion> versions, double row, Color color) {
    double[] days = versions.stream().mapToDouble(ThinnedHistory::day).toArray();
    double[] rows = versions.stream().mapToDouble(version -> row).toArray();
    XYSeries series = chart.addSeries(name, days, rows);
    series.setXYSeriesRenderStyle(XYSeries.XYSeriesRenderStyle.Scatter);
    series.setMarker(SeriesMarkers.DIAMOND).setMarkerColor(color);
  }

  private static void save(Path path, XYChart chart) throws IOException {
    BitmapEncoder.saveBitmap(chart, path.toString(), BitmapEncoder.BitmapFormat.PNG);
    VectorGraphicsEncoder.saveVectorGraphic(
        chart, path.toString(), VectorGraphicsEncoder.VectorGraphicsFormat.SVG);
  }
}
