package org.ysteron.internal.upkeep;

import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;

/**
 * Asks for data files that are recorded as free whether a kept version refers to one all the same.
 * An expiry finds what is free by the keys of files. In a lake of an earlier program one object may
 * be in a table under two keys, so that it is free under one and needed under the other. Goes
 * through those pages only that are younger than the oldest of the files. For one thread.
 */
final class NeededFiles {
  private final LakeCore core;
  private final LakeState state;

  NeededFiles(LakeCore core, LakeState state) {
    this.core = core;
    this.state = state;
  }

  /** The names of those that are needed. */
  Set<String> among(Collection<FreeObject> free) {
    Map<String, Set<String>> byDirectory = new HashMap<>();
    for (FreeObject object : free) {
      if (object.name().startsWith("data/") && !object.isDirectory()) {
        String directory = object.name().substring(0, object.name().lastIndexOf('/'));
        byDirectory.computeIfAbsent(directory, key -> new HashSet<>()).add(object.name());
      }
    }
    Set<String> needed = new HashSet<>();
    if (!byDirectory.isEmpty()) {
      for (TableListing table : state.page().allByName(core.pages())) {
        Set<String> names = byDirectory.get(FileEntry.directory(table.id()));
        if (names != null) {
          new TableWalk(core.pages(), new Search(table.id(), names, needed)).through(table);
        }
      }
    }
    return needed;
  }

  private static final class Search implements TableWalk.Visitor {
    private final UUID table;
    private final Set<String> names;
    private final Set<String> needed;
    private final long oldest;

    Search(UUID table, Set<String> names, Set<String> needed) {
      this.table = table;
      this.names = names;
      this.needed = needed;
      this.oldest = names.stream().mapToLong(Search::startOf).min().orElse(0);
    }

    private static long startOf(String name) {
      return Numbering.leading(name.substring(name.lastIndexOf('/') + 1)).orElse(0);
    }

    @Override
    public boolean page(PageRef ref) {
      return ref.home().kind() != PageHome.Kind.ENTRY || ref.home().number() > oldest;
    }

    @Override
    public void files(List<FileEntry> entries) {
      for (FileEntry file : entries) {
        if (file.numbers().start() >= oldest && names.contains(file.objectName(table))) {
          needed.add(file.objectName(table));
        }
      }
    }
  }
}
