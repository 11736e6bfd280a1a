package org.ysteron;

import java.io.IOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.BasicFileAttributes;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import org.ysteron.commit.CommitNote;
import org.ysteron.commit.LakeCore;
import org.ysteron.data.Names;
import org.ysteron.data.Schema;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectStore;
import org.ysteron.store.StoreException;
import org.ysteron.table.CommitStamp;
import org.ysteron.table.LayoutPlan;
import org.ysteron.table.TableForm;
import org.ysteron.table.TableListing;
import org.ysteron.table.TableSettings;
import org.ysteron.transact.Isolation;
import org.ysteron.transact.TableEdits;
import org.ysteron.transact.TableNames;

/**
 * A directory, or another store, of tables that commit together. It follows the newest commit: each
 * call looks for it. Thread-safe.
 *
 * <pre>{@code
 * try (Lake lake = Lake.create(Path.of("tidewatch"))) {
 *   Table readings = lake.createTable("tide.readings", schema);
 *   …
 * }
 * }</pre>
 */
public final class Lake implements AutoCloseable {
  private static final int MOST_TRIES = 60;

  private final LakeCore core;
  private final CommitNote note;
  private final Set<Thread> inTransaction;

  Lake(LakeCore core, CommitNote note) {
    this(core, note, ConcurrentHashMap.newKeySet());
  }

  private Lake(LakeCore core, CommitNote note, Set<Thread> inTransaction) {
    this.core = core;
    this.note = note;
    this.inTransaction = inTransaction;
  }

  private Lake with(CommitNote other) {
    return new Lake(core, other, inTransaction);
  }

  /** Makes a lake in a directory, which is made too. */
  public static Lake create(Path directory) {
    return create(new LocalStore(directory));
  }

  /** Makes a lake in a store that has none, after proving that the store is fit for it. */
  public static Lake create(ObjectStore store) {
    CommitNote note = CommitNote.standard();
    return new Lake(LakeCore.create(store, note, LakeCore.Settings.standard()), note);
  }

  /** Opens the lake in a directory. */
  public static Lake open(Path directory) {
    try {
      if (Files.readAttributes(directory, BasicFileAttributes.class).isDirectory()) {
        return open(new LocalStore(directory));
      }
    } catch (AccessDeniedException e) {
      throw new StoreException("The directory %s may not be read.".formatted(directory), e);
    } catch (IOException e) {
      // there is none
    }
    throw new NotFoundException(
        "There is no lake in %s: it is no directory. Make a lake there, or check the path."
            .formatted(directory.toAbsolutePath().normalize()));
  }

  /** Opens the lake in a store. */
  public static Lake open(ObjectStore store) {
    return open(store, Clock.systemUTC(), Runtime.getRuntime().availableProcessors());
  }

  /**
   * Opens the lake in a store.
   *
   * @param clock gives commits their time
   * @param threads how many threads read and write
   */
  public static Lake open(ObjectStore store, Clock clock, int threads) {
    return new Lake(
        LakeCore.open(store, new LakeCore.Settings(clock, threads)), CommitNote.standard());
  }

  /** Makes a lake in a store, with a clock and a number of threads. */
  public static Lake create(ObjectStore store, Clock clock, int threads) {
    CommitNote note = CommitNote.standard();
    return new Lake(LakeCore.create(store, note, new LakeCore.Settings(clock, threads)), note);
  }

  /** This lake, whose commits say who made them and by which program. */
  public Lake by(String author, String program) {
    return with(note.by(author, program));
  }

  /** This lake, whose commits carry a note. */
  public Lake noting(String text) {
    return with(note.withNote(text));
  }

  /** This lake, whose commits name the statement that caused them. */
  public Lake because(String statement) {
    return with(note.withStatement(statement));
  }

  /** This lake, whose commits carry a name and a value of the caller's own. */
  public Lake labelled(String name, String value) {
    return with(note.withLabel(name, value));
  }

  /** The names and values that a commit carries. */
  public Map<String, String> labels(CommitStamp commit) {
    return core.labels(commit);
  }

  /** Begins a serializable transaction. */
  public Transaction begin() {
    return begin(Isolation.SERIALIZABLE);
  }

  /**
   * Begins a transaction on the newest state.
   *
   * @throws InvalidInputException when this thread has one on this lake already
   */
  public Transaction begin(Isolation isolation) {
    return new Transaction(core, note, isolation, inTransaction);
  }

  /**
   * Does some work in a transaction and commits it; when it met another commit, does all of it
   * again on the newest state.
   *
   * @param work must do nothing that cannot be done twice
   * @throws org.ysteron.error.ConflictException when other commits stood in the way again and again
   */
  public <T> T inTransaction(Isolation isolation, Function<Transaction, T> work) {
    for (int tries = 1; ; tries++) {
      try (Transaction transaction = begin(isolation)) {
        T result = work.apply(transaction);
        transaction.commit();
        return result;
      } catch (ConflictException e) {
        if (!e.isWorthAnotherTry() || tries == MOST_TRIES) {
          throw e;
        }
      }
      core.pause(tries);
    }
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
  public List<TableListing> tables() {
    return core.refresh().page().tables(false, core.pages());
  }

  /** The tables that were dropped and can be brought back. */
  public List<TableListing> droppedTables() {
    return core.refresh().page().tables(true, core.pages());
  }

  /**
   * A table by name.
   *
   * @throws NotFoundException when there is none; the message has the near names
   */
  public Table table(String name) {
    TableListing listing = LakeView.find(core.refresh(), name, core);
    return new Table(core, note, listing.id(), listing.name());
  }

  /** Creates a table with the default properties. */
  public Table createTable(String name, Schema schema) {
    return createTable(name, schema, TableSettings.DEFAULTS);
  }

  /** Creates a table. */
  public Table createTable(String name, Schema schema, TableSettings settings) {
    return createTable(name, schema, settings, LayoutPlan.none());
  }

  /** Creates a table that lays its rows out by a plan. */
  public Table createTable(String name, Schema schema, TableSettings settings, LayoutPlan layout) {
    UUID id = UUID.randomUUID();
    core.commit(
        TableEdits.create(id, name, TableForm.of(schema, layout.bind(schema)), settings), note);
    return new Table(core, note, id, name);
  }

  /** Drops a table; it can be brought back. */
  public CommitStamp dropTable(String name) {
    TableListing listing = LakeView.find(core.refresh(), name, core);
    return core.commit(TableEdits.drop(listing.id(), name), note).commit();
  }

  /** Gives a table another name. */
  public CommitStamp renameTable(String name, String newName) {
    TableListing listing = LakeView.find(core.refresh(), name, core);
    return core.commit(TableEdits.rename(listing.id(), name, newName), note).commit();
  }

  /** Brings the dropped table of a name back; of several, the one dropped last. */
  public Table bringBackTable(String name) {
    TableNames.check(name);
    List<TableListing> dropped = droppedTables();
    TableListing listing =
        dropped.stream()
            .filter(table -> table.name().equals(name))
            .max(
                java.util.Comparator.comparing(
                    table -> TableView.of(core, table.page()).record().commit().entry()))
            .orElseThrow(
                () ->
                    new NotFoundException(
                        "No table %s was dropped.%s"
                            .formatted(
                                name,
                                Names.didYouMean(
                                    name, dropped.stream().map(TableListing::name).toList()))));
    core.commit(TableEdits.bringBack(listing.id(), name), note);
    return new Table(core, note, listing.id(), name);
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

  /** The commits to any table, the newest first, at most so many; their entries are checked. */
  public List<CommitStamp> commits(int limit) {
    checkNotNegative(limit, "limit");
    return core.commits(limit);
  }

  /** The commit of a commit id among the newest so many entries; to find out how one ended. */
  public java.util.Optional<CommitStamp> findCommit(UUID commitId, int entries) {
    return now().findCommit(commitId, entries);
  }

  /** Refuses an argument that must not be negative. */
  static void checkNotNegative(long value, String what) {
    if (value < 0) {
      throw new InvalidInputException(
          "The %s is %d; it must not be negative.".formatted(what, value));
    }
  }

  @Override
  public void close() {
    core.close();
  }
}
