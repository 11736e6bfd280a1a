package org.ysteron.examples;

import static org.ysteron.expr.Condition.column;

import java.awt.BasicStroke;
import java.awt.Color;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.IntStream;
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
import org.ysteron.examples.TideOffice.Reading;
import org.ysteron.expr.Condition;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Explanation;
import org.ysteron.report.TableFile;

/**
 * A month of hourly drops of forty loggers, packed, and laid along a curve over time and gauge;
 * with figures, as PNG and SVG, of the sizes of the files and of which files a filter on both
 * columns opens.
 */
public final class PackedFiles {
  private static final int GAUGES = 40;
  private static final int DAYS = 30;
  private static final int FIRST_GAUGE = 10;
  private static final int LAST_GAUGE = 14;
  private static final Color REST = new Color(0x8a, 0x9b, 0xa8);
  private static final Color OPENED = new Color(0xc0, 0x39, 0x2b);
  private static final Color ASKED = new Color(0x1f, 0x6f, 0x50);
  private static final Color FIRST = new Color(0x2c, 0x6f, 0xa8);

  private final int days;
  private final int firstDay;
  private final int lastDay;

  private PackedFiles(int days) {
    this.days = days;
    this.firstDay = days * 2 / 5;
    this.lastDay = days / 2;
  }

  /**
   * Takes an empty directory for the lake and the figures, or makes a temporary one; and how many
   * days there are.
   */
  public static void main(String[] arguments) throws IOException {
    Path directory =
        arguments.length > 0 ? Path.of(arguments[0]) : Files.createTempDirectory("tidewatch");
    new PackedFiles(arguments.length > 1 ? Integer.parseInt(arguments[1]) : DAYS).run(directory);
  }

  private void run(Path directory) throws IOException {
    try (Lake lake = Lake.create(directory)) {
      Table readings =
          lake.createTable(
              "tide.readings",
              TideOffice.readingsSchema(),
              TableSettings.DEFAULTS.fileBytes(40 << 10));
      drop(readings);
      List<TableFile> dropped = tell("as they were dropped", readings);
      XYChart before = boxes("Hourly drops", readings);
      readings.compact().run();
      List<TableFile> packed = tell("packed", readings);
      readings.alter().layout(LayoutPlan.none().along("taken_at", "gauge_id")).run();
      readings.compact().renewing().run();
      tell("along a curve", readings);
      XYChart after = boxes("Along a curve over both", readings);
      XYChart sizes = sizes(dropped, packed);
      System.setProperty("java.awt.headless", "true");
      save(directory.resolve("sizes"), List.of(sizes));
      save(directory.resolve("opened"), List.of(before, after));
      System.out.println("figures: sizes.png, opened.png and .svg in " + directory);
    }
  }

  private void drop(Table readings) {
    TideOffice office = new TideOffice(7, GAUGES);
    for (int day = 0; day < days; day++) {
      List<List<Reading>> hours = new ArrayList<>();
      IntStream.range(0, 24).forEach(hour -> hours.add(new ArrayList<>()));
      office.readings(
          day,
          1,
          10,
          reading -> {
            long minutes = Duration.between(TideOffice.START, reading.taken_at()).toMinutes();
            hours.get((int) (minutes / 60 % 24)).add(reading);
          });
      for (List<Reading> hour : hours) {
        try (Append append = readings.append()) {
          hour.forEach(append::addRecord);
          append.commit();
        }
      }
    }
  }

  private Condition asked() {
    Instant from = TideOffice.START.plus(firstDay, ChronoUnit.DAYS);
    Instant to = TideOffice.START.plus(lastDay, ChronoUnit.DAYS);
    Condition gauges = column("gauge_id").between("ORR-" + FIRST_GAUGE, "ORR-" + LAST_GAUGE);
    return column("taken_at").between(from, to).and(gauges);
  }

  private List<TableFile> tell(String how, Table readings) {
    List<TableFile> files = readings.now().files();
    Explanation plan = readings.scan().where(asked()).explain();
    System.out.printf(
        "%-22s %4d files, %6d KiB; some days of five gauges open %d of them%n",
        how,
        files.size(),
        files.stream().mapToLong(TableFile::bytes).sum() >> 10,
        plan.opened().filesWhole() + plan.opened().filesFiltered());
    return files;
  }

  private static XYChart chart(String title, String x, String y) {
    XYChart chart =
        new XYChartBuilder()
            .width(640)
            .height(480)
            .title(title)
            .xAxisTitle(x)
            .yAxisTitle(y)
            .build();
    chart.getStyler().setChartBackgroundColor(Color.WHITE);
    chart.getStyler().setPlotGridLinesVisible(false);
    chart.getStyler().setLegendPosition(Styler.LegendPosition.InsideNE);
    return chart;
  }

  /** The sizes of files, the largest first. */
  private static XYChart sizes(List<TableFile> before, List<TableFile> after) {
    XYChart chart = chart("Sizes of files", "file, the largest first", "KiB");
    chart.getStyler().setXAxisLogarithmic(true);
    add(chart, "%d as they were dropped".formatted(before.size()), before, FIRST);
    add(chart, "%d packed".formatted(after.size()), after, OPENED);
    return chart;
  }

  private static void add(XYChart chart, String name, List<TableFile> files, Color color) {
    double[] sizes =
        files.stream()
            .map(file -> file.bytes() / 1024.0)
            .sorted(Comparator.reverseOrder())
            .mapToDouble(size -> size)
            .toArray();
    double[] numbers = IntStream.rangeClosed(1, sizes.length).mapToDouble(i -> i).toArray();
    XYSeries series = chart.addSeries(name, numbers, sizes);
    series.setLineColor(color);
    series.setMarker(SeriesMarkers.CIRCLE).setMarkerColor(color);
  }

  /** Each file as the box of its values of both columns. */
  private XYChart boxes(String title, Table readings) {
    List<TableFile> files = new ArrayList<>(readings.now().files());
    files.sort(Comparator.comparing(this::isOpened)); // those opened are drawn above the others
    long opened = files.stream().filter(this::isOpened).count();
    XYChart chart =
        chart("%s: %d of %d files opened".formatted(title, opened, files.size()), "day", "gauge");
    chart.getStyler().setLegendVisible(false);
    chart.getStyler().setXAxisMin(0.0).setXAxisMax((double) days);
    chart.getStyler().setYAxisMin(0.0).setYAxisMax((double) GAUGES + 1);
    int number = 0;
    for (TableFile file : files) {
      double[] time = {day(file, true), day(file, false)};
      double[] gauges = {gauge(file, true), gauge(file, false)};
      boolean isOpened = isOpened(file);
      box(chart, "file " + number++, time, gauges, isOpened ? OPENED : REST, isOpened ? 2 : 1);
    }
    double[] time = {firstDay, lastDay};
    double[] gauges = {FIRST_GAUGE - 0.5, LAST_GAUGE + 0.5};
    box(chart, "asked for", time, gauges, ASKED, 3);
    return chart;
  }

  private boolean isOpened(TableFile file) {
    return day(file, true) <= lastDay
        && day(file, false) >= firstDay
        && gauge(file, true) <= LAST_GAUGE
        && gauge(file, false) >= FIRST_GAUGE;
  }

  private static double day(TableFile file, boolean least) {
    Instant time =
        (Instant)
            (least
                ? file.ranges().get("taken_at").min().orElseThrow()
                : file.ranges().get("taken_at").max().orElseThrow());
    return Duration.between(TideOffice.START, time).toMinutes() / 1440.0;
  }

  private static double gauge(TableFile file, boolean least) {
    Object name =
        least
            ? file.ranges().get("gauge_id").min().orElseThrow()
            : file.ranges().get("gauge_id").max().orElseThrow();
    return Integer.parseInt(name.toString().substring("ORR-".length())) + (least ? -0.4 : 0.4);
  }

  private static void box(
      XYChart chart, String name, double[] x, double[] y, Color color, float width) {
    XYSeries series =
        chart.addSeries(
            name,
            new double[] {x[0], x[1], x[1], x[0], x[0]},
            new double[] {y[0], y[0], y[1], y[1], y[0]});
    series.setMarker(SeriesMarkers.NONE);
    series.setLineColor(color);
    series.setLineStyle(new BasicStroke(width));
  }

  private static void save(Path path, List<XYChart> charts) throws IOException {
    BitmapEncoder.saveBitmap(
        charts, 1, charts.size(), path.toString(), BitmapEncoder.BitmapFormat.PNG);
    for (int i = 0; i < charts.size(); i++) {
      String name = path + (i == 0 ? "" : "-" + (i + 1));
      VectorGraphicsEncoder.saveVectorGraphic(
          charts.get(i), name, VectorGraphicsEncoder.VectorGraphicsFormat.SVG);
    }
  }
}
