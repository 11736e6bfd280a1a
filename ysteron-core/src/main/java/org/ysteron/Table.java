package org.ysteron;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.error.ExpiredException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.history.Changes;
import org.ysteron.history.RowStep;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.compare.RowHistory;
import org.ysteron.internal.erase.ErasureRun;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.measure.Measuring;
import org.ysteron.internal.statement.Leftovers;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.StatisticsPage;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.internal.upkeep.Bookmarks;
import org.ysteron.internal.upkeep.HealthCheck;
import org.ysteron.internal.upkeep.Requests;
import org.ysteron.maintenance.Compaction;
import org.ysteron.maintenance.Expiry;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.option.Check;
import org.ysteron.option.Isolation;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.proof.TableErase;
import org.ysteron.report.LeftoverKey;
import org.ysteron.report.TableStatistics;
import org.ysteron.report.TableVersion;

/**
 * A table of a lake. It always shows the newest version; {@link #now()} and the {@code at} methods
 * return a fixed one. It remains the same table if it is renamed. Thread-safe.
 */
public final class Table extends EditableTable {
  private final LakeCore core;
  private final CommitNote note;
  private final UUID id;
  private final String name;

  Table(LakeCore core, CommitNote note, UUID id, String name) {
    this.core = core;
    this.note = note;
    this.id = id;
    this.name = name;
  }

  /** The table's id for life. */
  public UUID id() {
    return id;
  }

  @Override
  public String name() {
    return name;
  }

  private TableListing listing(LakeState state) {
    return state
        .page()
        .table(id, core.pages())
        .filter(found -> !found.dropped())
        .orElseThrow(
            () ->
                new NotFoundException(
                    NotFoundException.Kind.TABLE,
                    name,
                    "Table %s was dropped. Bring it back to read or write it.".formatted(name)));
  }

  private VersionPage newest() {
    return core.ofNewest(this::newest);
  }

  private VersionPage newest(LakeState state) {
    return VersionPage.read(listing(state).page(), core.pages());
  }

  private TableHistory history(LakeState state) {
    return TableHistory.of(listing(state), core.pages());
  }

  /** The newest version, pinned. */
  public TableView now() {
    return new TableView(core, newest());
  }

  /**
   * A version by number, pinned.
   *
   * @throws NotFoundException when there is none; the message names the newest
   * @throws ExpiredException when there was one, and it is not kept any more
   */
  public TableView at(long version) {
    return chosen(history -> history.byNumber(version));
  }

  /**
   * The version that was the newest at a time, pinned.
   *
   * @throws NotFoundException when the table is younger; the message names its first version
   * @throws ExpiredException when the version of then is not kept any more
   */
  public TableView at(Instant time) {
    return chosen(history -> history.byTime(time));
  }

  private TableView chosen(Function<TableHistory, HistoryRecord> choice) {
    return core.ofNewest(
        state -> {
          TableHistory history = history(state);
          return new TableView(core, history.pageOf(choice.apply(history)));
        });
  }

  /**
   * The version that a bookmark names, by itself or with the lake, pinned.
   *
   * @throws NotFoundException when there is no such bookmark, or it names no version of this table
   */
  public TableView atBookmark(String bookmark) {
    long version = core.ofNewest(now -> Bookmarks.versionOf(id, now, bookmark, core.pages()));
    return at(version);
  }

  /**
   * What differs between two versions, by number.
   *
   * @throws NotFoundException when there is no such version
   * @throws ExpiredException when one of them is not kept any more
   */
  public Changes between(long from, long to) {
    return at(from).changesTo(at(to));
  }

  /**
   * What happened to the rows that a condition, such as a key, selects, over all versions that are
   * kept, the oldest first. A row whose update made the condition select it, or no longer select
   * it, is told with both its forms. The selected rows are held in memory, so the condition should
   * select few.
   *
   * @param columns the columns to compare and to show, by path; all when there are none
   */
  public List<RowStep> rowHistory(Condition condition, String... columns) {
    return core.ofNewest(now -> RowHistory.of(core, history(now), condition, List.of(columns)));
  }

  /** The version that was the newest some time ago. */
  public TableView ago(Duration duration) {
    return at(core.clock().instant().minus(duration));
  }

  @Override
  public Schema schema() {
    return now().schema();
  }

  @Override
  public TableSettings settings() {
    return now().settings();
  }

  @Override
  public List<Check> checks() {
    return now().checks();
  }

  @Override
  public LayoutPlan layout() {
    return now().layout();
  }

  @Override
  public Optional<Field> leftoversColumn() {
    return now().leftoversColumn();
  }

  /** Starts a scan of the newest version. */
  @Override
  public Scan scan() {
    return now().scan().following(core, id, name);
  }

  /** The versions, the newest first, at most so many. */
  public List<TableVersion> history(int limit) {
    return now().history(limit);
  }

  /** How many versions there are that have not expired. */
  public long versionCount() {
    return core.ofNewest(state -> history(state).count());
  }

  @Override
  StatementRunner statements() {
    return new StatementRunner.Alone(core, note, newest());
  }

  /** This table for statements that only say what they would do. */
  public EditableTable dryRun() {
    return new DryRunTable(this, () -> new StatementRunner.DryRun(core, note, newest()));
  }

  /**
   * Opens a named writer, whose appends are applied exactly once; its earlier sessions end.
   *
   * @param writer its name, for life in this table
   */
  public NamedWriter openWriter(String writer) {
    return NamedWriter.open(core, note, id, name, writer);
  }

  /** Starts appending rows as they come. */
  public BufferedAppend buffered(BufferedAppend.Limits limits) {
    return buffered(limits, batch -> {});
  }

  /**
   * Starts appending rows as they come.
   *
   * @param committed is told of each commit, by the thread that made it
   */
  public BufferedAppend buffered(
      BufferedAppend.Limits limits, Consumer<BufferedAppend.Gathered> committed) {
    return buffered(limits, rules -> rules, committed);
  }

  /**
   * Starts appending rows as they come.
   *
   * @param rules from the table's own rules, what happens to rows that do not fit
   * @param committed is told of each commit, by the thread that made it
   */
  public BufferedAppend buffered(
      BufferedAppend.Limits limits,
      UnaryOperator<WriteRules> rules,
      Consumer<BufferedAppend.Gathered> committed) {
    return new BufferedAppend(name, () -> append(rules), limits, committed);
  }

  /**
   * Follows the table's versions.
   *
   * @param done starts behind this version; -1 starts with the first
   */
  public Follower follow(long done) {
    return new Follower(core, () -> core.ofNewest(this::history), done);
  }

  /** Starts an append by the newest version's schema and the table's own rules for drift. */
  public Append append() {
    return append(rules -> rules);
  }

  /**
   * Starts an append.
   *
   * @param rules from the table's own rules, how the columns of rows meet the table's
   */
  public Append append(UnaryOperator<WriteRules> rules) {
    LakeState state = core.refresh();
    WriteRules own = WriteRules.of(newest(state).settings());
    ChangeSet set = new ChangeSet(core, state, Isolation.SNAPSHOT);
    return new Append(note, set, set.table(id, name), rules.apply(own));
  }

  /**
   * Names the newest version, so that it does not expire.
   *
   * @throws org.ysteron.error.AlreadyExistsException when there is a bookmark of that name
   */
  public void bookmark(String bookmark) {
    core.commit(Bookmarks.ofTable(bookmark, id, OptionalLong.empty(), false), note);
  }

  /**
   * Names a version, so that it does not expire.
   *
   * @throws ExpiredException when the version is gone already
   * @throws org.ysteron.error.AlreadyExistsException when there is a bookmark of that name
   */
  public void bookmark(String bookmark, long version) {
    core.commit(Bookmarks.ofTable(bookmark, id, OptionalLong.of(version), false), note);
  }

  /**
   * Makes a bookmark that is there name another version, of this table.
   *
   * @throws NotFoundException when there is no such bookmark
   */
  public void moveBookmark(String bookmark, long version) {
    core.commit(Bookmarks.ofTable(bookmark, id, OptionalLong.of(version), true), note);
  }

  /** Starts letting go of old versions. */
  public Expiry expire() {
    return Requests.expiry(core, note, Optional.of(id));
  }

  /** Starts erasing rows from all versions. */
  public TableErase erase(Condition condition) {
    return new ErasureRun(core, note.withStatement(""), id, name, condition);
  }

  /** Starts packing small files into few of the size that is wanted. */
  public Compaction compact() {
    return Requests.compaction(core, note, id, name);
  }

  /**
   * Measures the values of columns in one scan and keeps what was found: later versions tell it,
   * too, until it is measured again. Layouts along a curve take their quantiles from it.
   *
   * @param columns their paths; none for all that hold single values
   */
  public TableStatistics measure(String... columns) {
    VersionPage now = newest();
    StatisticsPage found = Measuring.of(now, List.of(columns), core.reading());
    core.commit(TableEdits.measured(id, name, found), note);
    return found.told(now.schema());
  }

  /** What the newest version's files are like, and what would help; opens none. */
  public TableHealth health() {
    return core.ofNewest(state -> new HealthCheck(newest(state), core.reading()).run());
  }

  /** What the leftovers column holds: its keys, the most frequent first. */
  public List<LeftoverKey> leftovers() {
    return core.ofNewest(state -> Leftovers.keys(core.reading(), history(state)));
  }
}
