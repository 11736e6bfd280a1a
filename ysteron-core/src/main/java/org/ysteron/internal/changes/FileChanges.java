package org.ysteron.internal.changes;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;

/**
 * The data files in which two versions of a table differ. Pages of the file tree that both share
 * are not read. Immutable.
 *
 * @param came files of the later version that the earlier one has not
 * @param left files of the earlier version that the later one has not
 * @param changed files of both whose entries differ: other rows are masked, or the file was written
 *     anew by an erasure
 */
public record FileChanges(List<FileEntry> came, List<FileEntry> left, List<Changed> changed) {

  public static final FileChanges NONE = new FileChanges(List.of(), List.of(), List.of());

  /** A file that both versions have, as each has it. */
  public record Changed(FileEntry before, FileEntry after) {

    /** The rows that count in the earlier version and not in the later one. */
    public RoaringBitmap masked(PageStore pages) {
      return without(after.maskedPositions(pages), before.maskedPositions(pages));
    }

    /** The rows that count in the later version and not in the earlier one. */
    public RoaringBitmap unmasked(PageStore pages) {
      return without(before.maskedPositions(pages), after.maskedPositions(pages));
    }

    private static RoaringBitmap without(RoaringBitmap some, RoaringBitmap others) {
      some.andNot(others);
      return some;
    }
  }

  /** Compares two versions. */
  public static FileChanges between(VersionPage before, VersionPage after, PageStore pages) {
    return between(Optional.of(before), after, pages, summary -> true);
  }

  /**
   * Compares two versions in files that matter.
   *
   * @param before empty for a table without files
   * @param matters whether files of this summary may matter. A file that does in one of the
   *     versions only may be told as if the other one had it not
   */
  public static FileChanges between(
      Optional<VersionPage> before,
      VersionPage after,
      PageStore pages,
      Predicate<FileSummary> matters) {
    try {
      return compare(before, after, pages, matters);
    } catch (ExpiredException e) {
      // The pages of both may have been copied since.
      return compare(
          before.map(page -> page.now(pages).orElseThrow(() -> e)),
          after.now(pages).orElseThrow(() -> e),
          pages,
          matters);
    }
  }

  private static FileChanges compare(
      Optional<VersionPage> before,
      VersionPage after,
      PageStore pages,
      Predicate<FileSummary> matters) {
    PageTree<FileEntry, FileSummary> old =
        before
            .map(page -> page.fileTree(pages))
            .orElseGet(() -> new PageTree<>(pages, FileFormat.INSTANCE, PageTree.Root.EMPTY));
    List<FileEntry> came = new ArrayList<>();
    List<FileEntry> left = new ArrayList<>();
    List<Changed> changed = new ArrayList<>();
    old.diff(after.fileTree(pages), matters)
        .each(
            change -> {
              if (change.before().isEmpty()) {
                came.add(change.after().orElseThrow());
              } else if (change.after().isEmpty()) {
                left.add(change.before().get());
              } else {
                changed.add(new Changed(change.before().get(), change.after().get()));
              }
            });
    return new FileChanges(came, left, changed);
  }

  /**
   * The rows of the earlier version that are no longer where they were; empty for all of a file.
   */
  public Map<FileEntry, Optional<RoaringBitmap>> lost(PageStore pages) {
    Map<FileEntry, Optional<RoaringBitmap>> lost = new LinkedHashMap<>();
    left.forEach(file -> lost.put(file, Optional.empty()));
    changed.forEach(file -> lost.put(file.before(), Optional.of(file.masked(pages))));
    return lost;
  }

  /** The files that came in which a row was born later than a commit. */
  public List<FileEntry> cameWithBorn(long ordinal) {
    return came.stream().filter(file -> file.hasBornSince(ordinal)).toList();
  }
}
