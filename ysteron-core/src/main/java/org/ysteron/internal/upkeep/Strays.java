package org.ysteron.internal.upkeep;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Consumer;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.LakeWalk;
import org.ysteron.internal.lake.StartedObject;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.store.ObjectStore;

/**
 * Finds what nothing refers to: data files that writers left who never committed, and objects of
 * pages that are left by them, or that only versions needed which have expired. Their writers
 * started before the horizon of a state to which no kept version of any table refers to them. What
 * such a state does not refer to nothing ever will, for who started before its horizon cannot
 * commit. Data files are looked for among the names of a range; of a table it goes through only the
 * pages that may refer to such. For one thread.
 */
final class Strays {
  private final LakeCore core;
  private final LakeState state;
  private final long from;
  private final long to;
  private final List<String> foreign = new ArrayList<>();

  /**
   * Of a range.
   *
   * @param state the state after the horizon was set
   * @param from names of data files from this entry on
   * @param to names below this entry, which is not above the horizon
   */
  Strays(LakeCore core, LakeState state, long from, long to) {
    this.core = core;
    this.state = state;
    this.from = from;
    this.to = to;
  }

  /** Directories and objects whose names are not the lake's. */
  List<String> foreign() {
    return foreign;
  }

  /** Tells of each stray. */
  void each(Consumer<StartedObject> told) {
    Set<UUID> tables = new TreeSet<>();
    for (String top : List.of("data", "pages")) {
      for (ObjectStore.Child child : core.store().list(top, "", Integer.MAX_VALUE)) {
        String name = top + "/" + child.segment();
        if (name.equals(PageHome.LAKE_DIRECTORY)) {
          continue;
        }
        try {
          tables.add(UUID.fromString(child.segment()));
        } catch (IllegalArgumentException e) {
          foreign.add(name);
        }
      }
    }
    for (TableListing listing : state.page().allByName(core.pages())) {
      if (tables.remove(listing.id())) {
        ofTable(listing.id(), Optional.of(listing)).forEach(told);
      }
    }
    tables.forEach(
        table -> ofTable(table, Optional.empty()).forEach(told)); // let go, or never made
    ofLake().forEach(told);
  }

  private Collection<StartedObject> ofTable(UUID table, Optional<TableListing> listing) {
    Map<String, StartedObject> left = new LinkedHashMap<>();
    listed(FileEntry.directory(table), from).forEach(file -> left.put(file.name(), file));
    boolean hasFiles = !left.isEmpty();
    listed(PageHome.directory(table), 0).forEach(object -> left.put(object.name(), object));
    if (!left.isEmpty() && listing.isPresent()) {
      new TableWalk(core.pages(), new Marks(table, left, hasFiles)).through(listing.get());
    }
    return left.values();
  }

  private List<StartedObject> listed(String directory, long first) {
    return StartedObject.in(core.store(), directory, first, to);
  }

  /** Takes out what is referred to. */
  private final class Marks implements TableWalk.Visitor {
    private final UUID table;
    private final Map<String, StartedObject> left;
    private final boolean hasFiles;

    Marks(UUID table, Map<String, StartedObject> left, boolean hasFiles) {
      this.table = table;
      this.left = left;
      this.hasFiles = hasFiles;
    }

    @Override
    public boolean page(PageRef ref) {
      boolean isInEntry = ref.home().kind() == PageHome.Kind.ENTRY;
      if (!isInEntry) {
        left.remove(ref.home().objectName());
      }
      // What hangs on a page of an entry was there before it; other objects are told by the reach.
      boolean mayHaveFiles = hasFiles && (!isInEntry || ref.home().number() > from);
      return mayHaveFiles || ref.below().start() < Long.MAX_VALUE;
    }

    @Override
    public void files(List<FileEntry> entries) {
      entries.forEach(
          file -> {
            if (file.numbers().start() >= from) {
              left.remove(file.objectName(table));
            }
          });
    }
  }

  private Collection<StartedObject> ofLake() {
    Map<String, StartedObject> left = new LinkedHashMap<>();
    listed(PageHome.LAKE_DIRECTORY, 0).forEach(object -> left.put(object.name(), object));
    if (!left.isEmpty()) {
      new LakeWalk(
              core.pages(),
              ref -> {
                if (ref.home().kind() == PageHome.Kind.LAKE_PAGES) {
                  left.remove(ref.home().objectName());
                }
                return true;
              })
          .through(state.page(), state.pageRef());
    }
    return left.values();
  }
}
