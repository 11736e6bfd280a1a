package org.ysteron.internal.table;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Field;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.layout.Partitioner;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.report.TableFile;
import org.ysteron.report.ValueRange;

/** Tells people of a version's data files. For one thread. */
public final class FileTexts {
  private final VersionPage page;
  private final Map<Long, Layout> layouts;
  private final Map<Long, List<Partitioner>> partitioners = new HashMap<>();

  /** Of the files of a version. */
  public FileTexts(VersionPage page, PageStore pages) {
    this.page = page;
    this.layouts = page.layouts(pages);
  }

  /** What is told of a file. */
  public TableFile told(FileEntry file) {
    FileEntry.Numbers numbers = file.numbers();
    return new TableFile(
        numbers.number(),
        file.objectName(page.id()),
        numbers.rows(),
        numbers.maskedRows(),
        numbers.size(),
        numbers.births().least(),
        numbers.births().greatest(),
        numbers.layout(),
        partition(file),
        file.hash(),
        ranges(file));
  }

  /** The partition of a file, as text; empty without partition rules. */
  public String partition(FileEntry file) {
    List<String> parts = new ArrayList<>();
    for (Partitioner rule : partitioners.computeIfAbsent(file.numbers().layout(), this::rules)) {
      parts.add(part(file, rule));
    }
    return String.join(", ", parts);
  }

  private List<Partitioner> rules(long layout) {
    return layouts.getOrDefault(layout, Layout.NONE).partitioners(layout, page.schema());
  }

  /** What values of a column are in a file, by a rule of its layout. */
  private static String part(FileEntry file, Partitioner rule) {
    ColumnRange part = file.trackedRanges().get(rule.partId());
    if (part == null || part.state() != ColumnRange.State.BOUNDED) {
      return "null";
    }
    ColumnRange values = file.range(rule.fieldId());
    return rule.show(part.min())
        .orElseGet(
            () -> {
              String text = values.toString().replaceFirst("^\\[(.*), \\1\\]$", "$1");
              return values.state() == ColumnRange.State.BOUNDED ? text : "one value";
            });
  }

  private Map<String, ValueRange> ranges(FileEntry file) {
    Map<String, ValueRange> shown = new LinkedHashMap<>();
    file.trackedRanges()
        .forEach(
            (id, range) -> {
              if (!Layout.isReserved(id)) {
                String column = page.schema().field(id).map(Field::name).orElse("dropped");
                shown.put(column, range.told());
              }
            });
    return shown;
  }
}
