package org.ysteron;

import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Query;
import org.ysteron.data.Schema;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.check.CheckRun;
import org.ysteron.internal.check.MendRun;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.layout.LayoutText;
import org.ysteron.internal.position.ReaderPositions;
import org.ysteron.internal.remote.StagedChangeForm;
import org.ysteron.internal.remote.StagedChangeRun;
import org.ysteron.internal.remote.StagedDiscard;
import org.ysteron.internal.remote.StagedForm;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.internal.transact.TableNames;
import org.ysteron.internal.upkeep.Bookmarks;
import org.ysteron.internal.upkeep.LakeCheckup;
import org.ysteron.internal.upkeep.Requests;
import org.ysteron.internal.upkeep.Settings;
import org.ysteron.maintenance.Expiry;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.maintenance.Sweep;
import org.ysteron.maintenance.Upkeep;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeSettings;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.proof.LakeCheck;
import org.ysteron.proof.LakeMend;
import org.ysteron.report.Bookmark;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.Position;
import org.ysteron.report.TableInfo;
import org.ysteron.report.WriteResult;
import org.ysteron.task.StagedChange;
import org.ysteron.task.StagedRows;

/**
 * A lake as a program works with it. It always shows the newest commit. {@link #by}, {@link
 * #noting}, {@link #because} and {@link #labelled} return another handle of the same open lake,
 * whose commits carry what was said; only the {@link Lake} itself is closed. Thread-safe.
 */
public class LakeHandle {
  final LakeCore core;
  private final CommitNote note;

  LakeHandle(LakeCore core, CommitNote note) {
    this.core = core;
    this.note = note;
  }

  private LakeHandle with(CommitNote other) {
    return new LakeHandle(core, other);
  }

  /** This lake, whose commits say who made them and by which program; it ends with the lake. */
  public LakeHandle by(String author, String program) {
    return with(note.by(author, program));
  }

  /** This lake, whose commits carry a note; see {@link #by}. */
  public LakeHandle noting(String text) {
    return with(note.withNote(text));
  }

  /** This lake, whose commits name the statement that caused them; see {@link #by}. */
  public LakeHandle because(String statement) {
    return with(note.withStatement(statement));
  }

  /** This lake, whose commits carry a name and a value of the caller's own; see {@link #by}. */
  public LakeHandle labelled(String name, String value) {
    return with(note.withLabel(name, value));
  }

  /**
   * This lake, whose calls tell a monitor how far they are and end when it cancels them; see {@link
   * #by}. It takes the place of an earlier monitor.
   *
   * <p>A call that is cancelled throws a {@link org.ysteron.error.CancelledException}: a statement,
   * a load or a scan has changed nothing then. A compaction, an expiry, a sweep and an erasure
   * consist of several commits; those that were made stand, and the same call continues later.
   */
  public LakeHandle watchedBy(ProgressMonitor monitor) {
    return new LakeHandle(core.watchedBy(monitor), note);
  }

  /** The names and values that a commit carries. */
  public Map<String, String> labels(CommitStamp commit) {
    return core.labels(commit);
  }

  /** Begins a serializable transaction. */
  public Transaction begin() {
    return begin(Isolation.SERIALIZABLE);
  }

  /** Begins a transaction on the newest state. */
  public Transaction begin(Isolation isolation) {
    return new Transaction(core, note, isolation);
  }

  /**
   * Does some work in a transaction and commits it; when it met another commit, does all of it
   * again on the newest state.
   *
   * @param work must do nothing that cannot be done twice
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public <T> T inTransaction(Isolation isolation, Function<Transaction, T> work) {
    return again(
        isolation,
        transaction -> {
          T result = work.apply(transaction);
          transaction.commit();
          return result;
        });
  }

  /** The same for work that returns nothing; returns what was committed. */
  public WriteResult runInTransaction(Isolation isolation, Consumer<Transaction> work) {
    return again(
        isolation,
        transaction -> {
          work.accept(transaction);
          return transaction.commit();
        });
  }

  /** Does some work that commits its transaction, again when it met another commit. */
  private <T> T again(Isolation isolation, Function<Transaction, T> work) {
    return Retries.onConflict(
        core,
        () -> {
          try (Transaction transaction = begin(isolation)) {
            return transaction.startedAt(() -> work.apply(transaction));
          }
        });
  }

  /** The lake's id for life. */
  public UUID id() {
    return core.newestSeen().lakeId();
  }

  /** Where the lake is. */
  public String location() {
    return core.store().location();
  }

  /** All tables by name, as of the newest commit. */
  public List<TableInfo> tables() {
    return now().tables();
  }

  /** The tables that were dropped and can be brought back. */
  public List<TableInfo> droppedTables() {
    return now().droppedTables();
  }

  /**
   * A table by name.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public Table table(String name) {
    TableListing listing = find(name);
    return new Table(core, note, listing.id(), listing.name());
  }

  private TableListing find(String name) {
    return core.ofNewest(state -> LakeView.find(state, name, core));
  }

  /** A table by name, if there is one. */
  public Optional<Table> findTable(String name) {
    return core.ofNewest(state -> state.page().table(name, core.pages()))
        .map(listing -> new Table(core, note, listing.id(), listing.name()));
  }

  /**
   * Creates a table with the default settings.
   *
   * @throws AlreadyExistsException when there is a table of that name
   */
  public Table createTable(String name, Schema schema) {
    return createTable(name, schema, TableSettings.DEFAULTS);
  }

  /** Creates a table with settings. */
  public Table createTable(String name, Schema schema, TableSettings settings) {
    return createTable(name, schema, settings, LayoutPlan.none());
  }

  /** Creates a table that lays its rows out by a plan. */
  public Table createTable(String name, Schema schema, TableSettings settings, LayoutPlan layout) {
    UUID id = UUID.randomUUID();
    core.commit(
        TableEdits.create(
            id, name, TableForm.of(schema, LayoutText.bind(layout, schema)), settings),
        note);
    return new Table(core, note, id, name);
  }

  /** Creates a table with the default settings, unless one of that name exists. */
  public Table createTableIfAbsent(String name, Schema schema) {
    return createTableIfAbsent(name, schema, TableSettings.DEFAULTS, LayoutPlan.none());
  }

  /**
   * Creates a table, unless one of that name exists.
   *
   * @return the table of that name; one that existed before is as it was, whatever its schema
   */
  public Table createTableIfAbsent(
      String name, Schema schema, TableSettings settings, LayoutPlan layout) {
    while (true) {
      Optional<Table> known = findTable(name);
      if (known.isPresent()) {
        return known.get();
      }
      try {
        return createTable(name, schema, settings, layout);
      } catch (AlreadyExistsException e) {
        // Another commit created it meanwhile.
      }
    }
  }

  /** Drops a table; it can be brought back. */
  public WriteResult dropTable(String name) {
    TableListing listing = find(name);
    return committed(TableEdits.drop(listing.id(), name));
  }

  /** Gives a table another name. */
  public WriteResult renameTable(String name, String newName) {
    TableListing listing = find(name);
    return committed(TableEdits.rename(listing.id(), name, newName));
  }

  private WriteResult committed(Change change) {
    return WriteResult.of(ChangeReport.NOTHING, core.commit(change, note));
  }

  /**
   * Does what was prepared elsewhere, in one commit: as if a serializable transaction had started
   * on the staged change's entry. It is not tried again; the same rows can be prepared anew.
   * Applied a second time, by whomever, it does nothing, so that one whose outcome is unknown can
   * be applied again.
   *
   * @return what was done; nothing when the staged change, or its number of a named writer, was
   *     applied before
   * @throws org.ysteron.error.WrongLakeException when the entry is not this lake's
   * @throws ConflictException when it met another commit that it cannot be combined with
   * @throws org.ysteron.error.KeyExistsException when other rows have keys of those that come
   */
  public WriteResult apply(StagedChange stagedChange) {
    return new StagedChangeRun(core, StagedChangeForm.of(stagedChange.toBytes())).run(note);
  }

  /**
   * Deletes the files of staged rows that are not wanted any more, as after a task that ran twice;
   * else a sweep deletes them. Nobody may be applying them meanwhile, and no {@link #apply} of them
   * may have had an unknown outcome.
   *
   * @throws org.ysteron.error.InvalidInputException when a version of their table has one of them
   */
  public void discard(StagedRows rows) {
    new StagedDiscard(core, StagedForm.of(rows.toBytes())).run();
  }

  /**
   * Makes tables what they were together at a time, in one commit.
   *
   * @param to all of them as of one commit
   * @throws NotFoundException when one of them was not there then
   */
  public WriteResult rewind(Instant to, List<String> tables) {
    return again(
        Isolation.SERIALIZABLE,
        transaction -> {
          tables.forEach(name -> transaction.table(name).rewind().to(to).run());
          return transaction.commit();
        });
  }

  /** Brings the dropped table of a name back; of several, the one dropped last. */
  public Table bringBackTable(String name) {
    TableNames.check(name);
    TableListing listing = core.ofNewest(now -> LakeView.lastDropped(now, name, core));
    core.commit(TableEdits.bringBack(listing.id(), name), note);
    return new Table(core, note, listing.id(), name);
  }

  /**
   * An SQL query on the newest state. It needs the library {@code ysteron-sql}.
   *
   * @param text one query of ISO SQL, such as {@code SELECT count(*) FROM tide.readings WHERE
   *     level_cm > ?}
   * @param parameters what stands for the question marks, in their order
   * @throws org.ysteron.error.InvalidInputException pointing at the place of the text that is wrong
   */
  public Query sql(String text, @Nullable Object... parameters) {
    return now().sql(text, parameters);
  }

  /**
   * Carries out an SQL statement that changes rows of a table (INSERT, UPDATE, DELETE, MERGE,
   * TRUNCATE) or defines one (CREATE, ALTER, DROP), in a serializable commit of its own, which
   * names the text of the statement. When it meets another commit, it is carried out again. It
   * needs the library {@code ysteron-sql}, whose sessions have transactions and procedures, too.
   *
   * @param text one statement of ISO SQL, such as {@code UPDATE tide.readings SET quality = ? WHERE
   *     level_cm > ?}
   * @param parameters what stands for the question marks, in their order; they are not in the
   *     history
   * @return what was changed
   * @throws org.ysteron.error.InvalidInputException pointing at the place of the text that is wrong
   */
  public WriteResult execute(String text, @Nullable Object... parameters) {
    return LakeView.sql(SqlStatements.class).execute(this, text, Arrays.asList(parameters));
  }

  /** What carries statements out; the library {@code ysteron-sql} provides it. */
  public interface SqlStatements {

    /** Carries out a statement that changes rows; {@code parameters}: for its question marks. */
    WriteResult execute(LakeHandle lake, String text, List<@Nullable Object> parameters);
  }

  /** The lake as of the newest commit; it does not follow later ones. */
  public LakeView now() {
    return new LakeView(core, core.refresh());
  }

  /**
   * The lake as it was at a time: all tables as of one commit.
   *
   * @throws NotFoundException when the lake is younger
   */
  public LakeView at(Instant time) {
    return new LakeView(core, core.at(Objects.requireNonNull(time)));
  }

  /**
   * The lake as it was after a ledger entry.
   *
   * @throws NotFoundException when there is no such entry
   * @throws org.ysteron.error.ExpiredException when it is not kept any more
   */
  public LakeView atEntry(long entry) {
    return new LakeView(core, core.atEntry(entry));
  }

  /**
   * The lake as a bookmark of it names it.
   *
   * @throws NotFoundException when there is no such bookmark, or it names a version of a table
   */
  public LakeView atBookmark(String bookmark) {
    return atEntry(core.ofNewest(now -> Bookmarks.entryOf(now, bookmark, core.pages())));
  }

  /**
   * Names the lake as it is now, so that none of its tables' versions expires.
   *
   * @throws AlreadyExistsException when there is a bookmark of that name
   */
  public void bookmark(String bookmark) {
    core.commit(Bookmarks.ofLake(bookmark, Optional.empty(), false), note);
  }

  /**
   * Names the lake as it was at a time.
   *
   * @throws org.ysteron.error.ExpiredException when a table of then is not kept any more
   * @throws AlreadyExistsException when there is a bookmark of that name
   */
  public void bookmark(String bookmark, Instant time) {
    core.commit(Bookmarks.ofLake(bookmark, Optional.of(time), false), note);
  }

  /**
   * Makes a bookmark that is there name the lake as it was at a time.
   *
   * @throws NotFoundException when there is no such bookmark
   */
  public void moveBookmark(String bookmark, Instant time) {
    core.commit(Bookmarks.ofLake(bookmark, Optional.of(time), true), note);
  }

  /**
   * Drops a bookmark; what it named may expire then.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public void dropBookmark(String bookmark) {
    core.commit(Bookmarks.drop(bookmark), note);
  }

  /** All bookmarks, by name. */
  public List<Bookmark> bookmarks() {
    return core.ofNewest(now -> Bookmarks.all(now, core.pages()));
  }

  /**
   * Creates a position of a named reader, or sets an existing one anew, so that it has read the
   * tables as they are now. What it has yet to read stays for 30 days from then on, and from each
   * time that it is moved.
   *
   * @throws AlreadyExistsException when a bookmark has that name
   * @throws NotFoundException when there is no such table
   * @see Transaction#position
   */
  public void setPosition(String name, String... tables) {
    setPosition(name, ReaderPositions.LIMIT, ReaderPositions.newest(tables));
  }

  /**
   * Creates a position of a named reader, or sets an existing one anew.
   *
   * @param limit how long the versions that it has read stay, from now on and from each time that
   *     it is moved; a reader that comes later than that has missed changes
   * @param versions the versions up to which it has read, by the names of the tables
   * @throws org.ysteron.error.InvalidInputException when an existing position would go back
   * @throws org.ysteron.error.ExpiredException when one of the versions is not kept any more
   */
  public void setPosition(String name, Map<String, Long> versions, Duration limit) {
    Map<String, Optional<Long>> chosen = new TreeMap<>();
    versions.forEach((table, version) -> chosen.put(table, Optional.of(version)));
    setPosition(name, limit, chosen);
  }

  private void setPosition(String name, Duration limit, Map<String, Optional<Long>> versions) {
    runInTransaction(Isolation.SNAPSHOT, work -> work.setPosition(name, limit, versions));
  }

  /**
   * Drops a position; what it held may expire then.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public void dropPosition(String name) {
    runInTransaction(Isolation.SNAPSHOT, work -> work.dropPosition(name));
  }

  /** The positions of all named readers, by name. */
  public List<Position> positions() {
    return core.ofNewest(now -> ReaderPositions.all(now, core.pages()));
  }

  /**
   * The position of a named reader.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public Position position(String name) {
    return core.ofNewest(now -> ReaderPositions.byName(now, name, core.pages()));
  }

  /** What upkeep does when, and which versions tables keep that say nothing of it themselves. */
  public LakeSettings settings() {
    return LakeSettings.stored(core.refresh().page().upkeep().settings());
  }

  /** Changes one of the settings. */
  public void set(String setting, Object value) {
    core.commit(Settings.change(setting, value), note);
  }

  /** Starts letting go of old versions of all tables. */
  public Expiry expire() {
    return Requests.expiry(core, note, Optional.empty());
  }

  /** Starts deleting what nothing needs any more. */
  public Sweep sweep() {
    return Requests.sweep(core, note);
  }

  /** What upkeep has to do, and when. */
  public LakeHealth health() {
    return LakeCheckup.of(core);
  }

  /** Starts looking whether everything that the lake refers to is there, whole and in agreement. */
  public LakeCheck check() {
    return new CheckRun(core);
  }

  /** Starts taking data files that are lost or damaged out of the newest versions. */
  public LakeMend mend() {
    return new MendRun(core, note);
  }

  /** Starts all that is due by the settings of the lake and of its tables. */
  public Upkeep upkeep() {
    return Requests.upkeep(core, note);
  }

  /**
   * To be called once when the lake was put back from a copy, before anybody works with it: refuses
   * all that was started on the lake that was lost. While a copy is being put back nothing may
   * sweep, nor erase rows.
   */
  public void confirmRestore() {
    core.restored(Settings.restored(), note);
  }

  /** The commits to any table, the newest first, at most so many; their entries are checked. */
  public List<CommitStamp> commits(int limit) {
    Limits.notNegative(limit, "limit");
    return core.commits(limit);
  }

  /** The commit of a commit id among the newest so many entries; to find out how one ended. */
  public Optional<CommitStamp> findCommit(UUID commitId, int entries) {
    return now().findCommit(commitId, entries);
  }
}
