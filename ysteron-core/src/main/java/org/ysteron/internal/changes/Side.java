package org.ysteron.internal.changes;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;

/**
 * Rows of one of two versions that count in it, and do not count at the same position of the same
 * file in the other one. They follow from file trees and row masks; files without rows that matter
 * are left out as far as their ranges tell. For one thread.
 *
 * @param files where they are
 * @param positions for each file the rows that are meant; null for all that count
 */
public record Side(
    ReadContext context,
    VersionPage version,
    Filter filter,
    List<FileEntry> files,
    List<RoaringBitmap> positions) {

  /**
   * Both sides of a comparison.
   *
   * @param earlier rows of the version that the changes start from
   * @param later rows of the version that they lead to
   */
  public record Both(Side earlier, Side later) {}

  /** Finds both sides; reads pages of the file trees where they differ. */
  public static Both of(Comparison comparison) {
    PageStore pages = comparison.context().pages();
    Side earlier = empty(comparison, comparison.from());
    Side later = empty(comparison, comparison.to());
    FileChanges files =
        FileChanges.between(
            Optional.of(comparison.from()),
            comparison.to(),
            pages,
            summary ->
                earlier.filter.testFiles(summary) != Verdict.NONE
                    || later.filter.testFiles(summary) != Verdict.NONE);
    files.left().forEach(file -> earlier.add(file, null));
    files.came().forEach(file -> later.add(file, null));
    for (FileChanges.Changed file : files.changed()) {
      earlier.add(file.before(), file.masked(pages));
      later.add(file.after(), file.unmasked(pages));
    }
    return new Both(earlier, later);
  }

  private static Side empty(Comparison comparison, VersionPage version) {
    return new Side(
        comparison.context(),
        version,
        comparison.filter(version),
        new ArrayList<>(),
        new ArrayList<>());
  }

  private void add(FileEntry file, RoaringBitmap rows) {
    if ((rows == null || !rows.isEmpty()) && filter.testFiles(file) != Verdict.NONE) {
      files.add(file);
      positions.add(rows);
    }
  }

  public boolean isEmpty() {
    return files.isEmpty();
  }

  /** Whether all rows of a file pass. */
  boolean isDecided(FileEntry file) {
    return filter.isTrivial() || filter.testFiles(file) == Verdict.ALL;
  }

  /** How to read those of one of the files that pass. */
  FilesScan.Part part(int file) {
    FileEntry entry = files.get(file);
    return new FilesScan.Part(
        new ScanPlan.Task(version, entry, !isDecided(entry)), positions.get(file));
  }

  RoaringBitmap live(int file) {
    return new SerialFinder(context, version).live(files.get(file), positions.get(file));
  }

  /** Reads all of them that pass. */
  public FilesScan scan(Schema columns) {
    List<FilesScan.Part> parts = new ArrayList<>();
    for (int i = 0; i < files.size(); i++) {
      parts.add(part(i));
    }
    return FilesScan.told(context, parts, columns, filter);
  }
}
