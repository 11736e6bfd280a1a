package org.ysteron;

import java.time.Instant;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.ServiceLoader;
import java.util.UUID;
import java.util.function.BiFunction;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Query;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.LakePage;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.position.ReaderPositions;
import org.ysteron.internal.remote.WriteForm;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.transact.OpenTransaction;
import org.ysteron.internal.upkeep.Bookmarks;
import org.ysteron.internal.work.Means;
import org.ysteron.option.LakeOptions;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.report.Bookmark;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.Position;
import org.ysteron.report.TableInfo;
import org.ysteron.task.StagedChange;
import org.ysteron.task.WriteTask;

/** A lake as of one commit: a consistent state of all tables. Immutable, thread-safe. */
public final class LakeView {
  private final LakeCore core;
  private final LakeState state;
  private final Optional<OpenTransaction> within;

  LakeView(LakeCore core, LakeState state) {
    this(core, state, Optional.empty());
  }

  /** {@code within}: the transaction whose changes are seen as well. */
  LakeView(LakeCore core, LakeState state, Optional<OpenTransaction> within) {
    this.core = core;
    this.state = state;
    this.within = within;
  }

  /** The commit. */
  public CommitStamp commit() {
    return state.commit();
  }

  /**
   * The same lake at another time, as {@code Lake.at} says.
   *
   * @throws org.ysteron.error.NotFoundException when the lake is younger
   */
  public LakeView at(Instant time) {
    return new LakeView(core, core.at(time));
  }

  /**
   * The same lake after another entry of its ledger.
   *
   * @throws org.ysteron.error.NotFoundException when there is no such entry
   * @throws org.ysteron.error.ExpiredException when it is not kept any more
   */
  public LakeView atEntry(long entry) {
    return new LakeView(core, core.atEntry(entry));
  }

  /** The hash of the commit's entry, which proves all that the lake then was. */
  public String hash() {
    return state.hash();
  }

  /** The names of the tables that there were, and whose versions of then have expired. */
  public List<String> expiredTables() {
    return looking(
        state,
        core,
        now -> List.of(),
        (then, newest) -> then.page().expiredThen(newest, core.pages()));
  }

  /** All tables by name, but for {@link #expiredTables}. */
  public List<TableInfo> tables() {
    Map<UUID, TableInfo> tables = new LinkedHashMap<>();
    tables(state, core).forEach(listing -> tables.put(listing.id(), listing.told()));
    within.ifPresent(transaction -> transaction.tell(tables));
    return tables.values().stream().sorted(Comparator.comparing(TableInfo::name)).toList();
  }

  /**
   * Looks at a state: by its own page while it is the newest, else by that and the newest one,
   * through which the past is reached; wherever the names of then are by now.
   */
  private static <T> T looking(
      LakeState state,
      LakeCore core,
      Function<LakePage, T> atNewest,
      BiFunction<LakeState, LakePage, T> atPast) {
    try {
      return look(state, core, atNewest, atPast);
    } catch (ExpiredException e) {
      return look(core.atEntry(state.number()), core, atNewest, atPast);
    }
  }

  private static <T> T look(
      LakeState state,
      LakeCore core,
      Function<LakePage, T> atNewest,
      BiFunction<LakeState, LakePage, T> atPast) {
    LakeState newest = core.newestSeen();
    return state.number() == newest.number()
        ? atNewest.apply(state.page())
        : atPast.apply(state, newest.page());
  }

  private static List<TableListing> tables(LakeState state, LakeCore core) {
    return looking(
        state,
        core,
        now -> now.tables(false, core.pages()),
        (then, newest) -> then.page().tablesThen(newest, core.pages()));
  }

  private static List<TableListing> dropped(LakeState state, LakeCore core) {
    return looking(
        state,
        core,
        now -> now.tables(true, core.pages()),
        (then, newest) -> then.page().droppedThen(then.commit().ordinal(), newest, core.pages()));
  }

  private static Optional<TableListing> table(LakeState state, String name, LakeCore core) {
    return looking(
        state,
        core,
        now -> now.table(name, core.pages()),
        (then, newest) -> then.page().tableThen(name, newest, core.pages()));
  }

  /** The tables that were dropped and could be brought back. */
  public List<TableInfo> droppedTables() {
    return dropped(state, core).stream().map(TableListing::told).toList();
  }

  /**
   * A table by name.
   *
   * @throws NotFoundException when there was none
   */
  public TableView table(String name) {
    return ofTransaction(name)
        .orElseGet(
            () -> {
              TableListing found = find(state, name, core);
              if (within.isPresent()) {
                throw new NotFoundException(
                    NotFoundException.Kind.TABLE,
                    name,
                    "Table " + name + " was dropped in this transaction.");
              }
              return TableView.of(core, found.page());
            });
  }

  private Optional<TableView> ofTransaction(String name) {
    return within.flatMap(
        open ->
            open.inside(
                () -> {
                  open.settle();
                  return open.changes()
                      .table(name)
                      .map(change -> TransactionTable.draft(open, change));
                }));
  }

  /** A table by name, if there was one. */
  public Optional<TableView> findTable(String name) {
    return within.isPresent()
        ? ofTransaction(name)
        : table(state, name, core).map(listing -> TableView.of(core, listing.page()));
  }

  /**
   * What another process needs to write rows for a table, to be committed with a {@link
   * #stagedChange()}.
   *
   * @throws NotFoundException when there was no such table
   */
  public WriteTask writeTask(String name) {
    return WriteTask.of(WriteForm.of(table(name).page(), state.number(), core.now()).toBytes());
  }

  /** Starts saying what is to be done to this state by {@link Lake#apply}. */
  public StagedChange stagedChange() {
    return StagedChange.on(state.number(), state.hash());
  }

  Optional<CommitStamp> findCommit(UUID commitId, int entries) {
    for (long n = state.number(); n >= 0 && n > state.number() - entries; n--) {
      Optional<EntryRecord> entry =
          n == state.number()
              ? Optional.of(state.entry())
              : core.newestSeen().page().entry(n, core.pages());
      for (CommitStamp commit : entry.map(EntryRecord::commits).orElse(List.of())) {
        if (commit.commitId().equals(commitId)) {
          return Optional.of(commit);
        }
      }
    }
    return Optional.empty();
  }

  static TableListing find(LakeState state, String name, LakeCore core) {
    return table(state, name, core)
        .orElseThrow(
            () -> {
              List<String> names = tables(state, core).stream().map(TableListing::name).toList();
              List<String> dropped = dropped(state, core).stream().map(TableListing::name).toList();
              String hint =
                  dropped.contains(name)
                      ? " It was dropped. Bring it back first."
                      : NearNames.didYouMean(name, names);
              return new NotFoundException(
                  NotFoundException.Kind.TABLE,
                  name,
                  "There is no table %s in the lake as of entry %d.%s"
                      .formatted(org.ysteron.data.Values.quote(name), state.number(), hint));
            });
  }

  /** Of the tables that were dropped under a name, the one dropped last. */
  static TableListing lastDropped(LakeState state, String name, LakeCore core) {
    List<TableListing> dropped = dropped(state, core);
    return dropped.stream()
        .filter(table -> table.name().equals(name))
        .max(
            Comparator.comparing(
                table -> TableView.of(core, table.page()).record().commit().entry()))
        .orElseThrow(
            () ->
                new NotFoundException(
                    NotFoundException.Kind.TABLE,
                    name,
                    "No table %s was dropped.%s"
                        .formatted(
                            name,
                            NearNames.didYouMean(
                                name, dropped.stream().map(TableListing::name).toList()))));
  }

  /** All bookmarks, by name, as of the newest commit. */
  public List<Bookmark> bookmarks() {
    return core.ofNewest(now -> Bookmarks.all(now, core.pages()));
  }

  /**
   * The lake as a bookmark of it names it.
   *
   * @throws NotFoundException when there is no such bookmark, or it names a version of a table
   */
  public LakeView atBookmark(String bookmark) {
    return atEntry(core.ofNewest(now -> Bookmarks.entryOf(now, bookmark, core.pages())));
  }

  /** The positions of all named readers, by name, as of the newest commit. */
  public List<Position> positions() {
    return core.ofNewest(now -> ReaderPositions.all(now, core.pages()));
  }

  /** With which options the lake is open: threads, memory, temporary directory. */
  public LakeOptions options() {
    Means means = core.workers().means();
    return LakeOptions.DEFAULTS
        .threads(means.threads())
        .memory(means.memory())
        .temporaryDirectory(means.temporary());
  }

  /** What watches its calls, as {@code LakeHandle.watchedBy} says. */
  public ProgressMonitor monitor() {
    return core.watch().monitor();
  }

  /**
   * An SQL query on this state. It needs the library {@code ysteron-sql}.
   *
   * @param text one query of ISO SQL, such as {@code SELECT count(*) FROM tide.readings WHERE
   *     level_cm > ?}
   * @param parameters what stands for the question marks, in their order
   * @throws InvalidInputException pointing at the place of the text that is wrong
   */
  public Query sql(String text, @Nullable Object... parameters) {
    return sql(SqlEngine.class).query(this, text, Arrays.asList(parameters));
  }

  /** What the library {@code ysteron-sql} provides. */
  static <T> T sql(Class<T> engine) {
    return ServiceLoader.load(engine, LakeView.class.getClassLoader())
        .findFirst()
        .orElseThrow(
            () ->
                new InvalidInputException(
                    "SQL needs the library ysteron-sql, which is not on the class path."));
  }

  /** What carries queries out; the library {@code ysteron-sql} provides it. */
  public interface SqlEngine {

    /** Plans a query; {@code parameters} stand for its question marks. */
    Query query(LakeView lake, String text, List<@Nullable Object> parameters);
  }
}
