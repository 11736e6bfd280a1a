package org.ysteron;

import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.ysteron.commit.LakeCore;
import org.ysteron.commit.LakeState;
import org.ysteron.data.Names;
import org.ysteron.error.NotFoundException;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.EntryRecord;
import org.ysteron.table.TableListing;

/** A lake as of one commit; all its tables belong together. Immutable, thread-safe. */
public final class LakeView {
  private final LakeCore core;
  private final LakeState state;

  LakeView(LakeCore core, LakeState state) {
    this.core = core;
    this.state = state;
  }

  /** The commit. */
  public CommitStamp commit() {
    return state.commit();
  }

  /** The hash of the commit's entry, which proves all that the lake then was. */
  public String hash() {
    return state.hash();
  }

  /** All tables by name. */
  public List<TableListing> tables() {
    return state.page().tables(false, core.pages());
  }

  /** The tables that were dropped and could be brought back. */
  public List<TableListing> droppedTables() {
    return state.page().tables(true, core.pages());
  }

  /**
   * A table by name.
   *
   * @throws NotFoundException when there was none
   */
  public TableView table(String name) {
    return TableView.of(core, find(state, name, core).page());
  }

  Optional<CommitStamp> findCommit(UUID commitId, int entries) {
    if (state.commit().commitId().equals(commitId)) {
      return Optional.of(state.commit());
    }
    for (long n = state.number() - 1; n >= 0 && n >= state.number() - entries; n--) {
      Optional<CommitStamp> found = state.page().entry(n, core.pages()).map(EntryRecord::commit);
      if (found.isPresent() && found.get().commitId().equals(commitId)) {
        return found;
      }
    }
    return Optional.empty();
  }

  static TableListing find(LakeState state, String name, LakeCore core) {
    return state
        .page()
        .table(name, core.pages())
        .orElseThrow(
            () -> {
              List<String> names =
                  state.page().tables(false, core.pages()).stream()
                      .map(TableListing::name)
                      .toList();
              List<String> dropped =
                  state.page().tables(true, core.pages()).stream().map(TableListing::name).toList();
              String hint =
                  dropped.contains(name)
                      ? " It was dropped; it can be brought back."
                      : Names.didYouMean(name, names);
              return new NotFoundException(
                  "There is no table %s in the lake as of entry %d.%s"
                      .formatted(org.ysteron.data.Values.quote(name), state.number(), hint));
            });
  }
}
