package org.ysteron.internal.changes;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;
import java.util.TreeMap;
import org.ysteron.internal.table.NextVersion;
import org.ysteron.internal.table.StagedFile;

/**
 * What is done to the rows of a table, relative to one version of it. Immutable.
 *
 * @param files new data files
 * @param touched rows that go, by the number of their file; also of files among the new ones
 */
public record RowEdits(List<StagedFile> files, SortedMap<Long, Touch> touched) {
  public static final RowEdits NONE = new RowEdits(List.of(), new TreeMap<>());

  /** New files and rows that go, of different files. */
  public static RowEdits of(List<StagedFile> files, List<Touch> touches) {
    SortedMap<Long, Touch> touched = new TreeMap<>();
    touches.forEach(touch -> touched.put(touch.entry().numbers().number(), touch));
    return new RowEdits(List.copyOf(files), touched);
  }

  /** These, and later ones behind them. */
  public RowEdits and(RowEdits later) {
    List<StagedFile> all = new ArrayList<>(files);
    all.addAll(later.files);
    SortedMap<Long, Touch> both = new TreeMap<>(touched);
    later.touched.forEach((number, touch) -> both.merge(number, touch, Touch::and));
    return new RowEdits(all, both);
  }

  public boolean areNone() {
    return files.isEmpty() && touched.isEmpty();
  }

  /** Does all of it to a version in the making, in which the files are as they were found. */
  public void applyTo(NextVersion next) {
    for (Map.Entry<Long, Touch> touch : touched.entrySet()) {
      if (touch.getValue().gone()) {
        next.remove(touch.getValue().entry());
      } else {
        next.mask(touch.getValue().entry(), touch.getValue().rows());
      }
    }
    files.forEach(next::add);
  }
}
