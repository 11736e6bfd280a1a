package org.ysteron.internal.erase;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.WiderColumns;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.internal.work.Ahead;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;

/**
 * Finds the rows that a condition means in the data files of all kept versions of a table, those
 * that are masked included. Each file is read once, whatever number of versions has it; looking at
 * a later state reads what has come since. The condition goes by the columns of the version that
 * was the newest at first. For one thread, beside which others read files.
 */
final class RowSearch {
  private final LakeCore core;
  private final UUID id;
  private final String name;
  private final Filter filter;
  private final Schema columns;
  private final Condition condition;
  private final Set<FormLiterals.Literal> hit = new HashSet<>();
  private Schema tested;
  private final FormLiterals literals;
  private final Set<PageRef> pages = new HashSet<>();
  private final Map<String, Match> matches = new LinkedHashMap<>();
  private final Set<String> searched = new HashSet<>();
  private final SortedMap<String, FormLiterals.Form> named = new TreeMap<>();
  private final Set<FormLiterals.Form> used = new HashSet<>();
  private final boolean isThorough;
  private final boolean takesMissingAsNull;
  private final Set<AsNull> searchedAsNull = new HashSet<>();
  private final Map<String, List<Long>> lacking = new TreeMap<>();
  private PageRef page;
  private PageRef head;
  private long rowsRead;

  /**
   * The rows of a file that are meant.
   *
   * @param file what some version knows of it
   * @param positions which, at least one
   */
  record Match(FileEntry file, RoaringBitmap positions) {
    long rows() {
      return positions.getLongCardinality();
    }

    boolean isWhole() {
      return rows() == file.rows();
    }
  }

  /** Rows of a file, and where they are named. */
  private record Found(
      FileEntry file, RoaringBitmap positions, Set<FormLiterals.Literal> named, long rows) {}

  /** A file that was read as if it had null in some columns, by their ids. */
  private record AsNull(String object, Set<Integer> columns) {}

  /**
   * Has looked at nothing yet.
   *
   * @param state in which the table's columns are those of the condition
   * @param isThorough whether files are read even if their ranges have no such row
   * @throws NotFoundException when the table, or a column of the condition, does not exist
   */
  RowSearch(
      LakeCore core,
      UUID id,
      String name,
      LakeState state,
      ErasureChoice choice,
      boolean isThorough) {
    this.isThorough = isThorough;
    this.takesMissingAsNull = choice.takesMissingAsNull();
    this.core = core;
    this.id = id;
    this.name = name;
    VersionPage newest = VersionPage.read(listing(state).page(), core.pages());
    Schema columns = newest.schema();
    for (TableForm older : newest.formsBefore(core.pages())) {
      columns = WiderColumns.of(columns, older.schema());
    }
    this.filter = Filter.bind(choice.condition().simplified(), columns);
    this.columns = columns;
    this.condition = choice.condition();
    this.literals = new FormLiterals(filter, columns);
    this.tested = tested(columns);
  }

  /** The whole columns of the condition, and those of which values are written in forms. */
  private Schema tested(Schema schema) {
    Set<Integer> whole = new TreeSet<>();
    condition.columns().forEach(path -> whole.add(schema.resolve(path).get(0).id()));
    literals.ids().forEach(id -> whole.add(schema.resolve(schema.pathOf(id)).get(0).id()));
    List<Field> columns =
        schema.columns().stream().filter(column -> whole.contains(column.id())).toList();
    return Schema.stored(columns, List.of(), schema.lastId());
  }

  /** Whether all of a state was looked at. */
  boolean hasSeen(LakeState state) {
    TableListing table = listing(state);
    return table.page().equals(page) && table.head().equals(head);
  }

  private TableListing listing(LakeState state) {
    return state
        .page()
        .table(id, core.pages())
        .orElseThrow(
            () ->
                new NotFoundException(
                    NotFoundException.Kind.TABLE,
                    name,
                    "There is no table " + name + " any more."));
  }

  /** Looks at what of a state was not looked at before. */
  void look(LakeState state) {
    if (hasSeen(state)) {
      return;
    }
    TableListing table = listing(state);
    Seen seen = new Seen();
    new TableWalk(core.pages(), seen).through(table);
    int known = literals.found().size();
    seen.versions.forEach(version -> literals.look(version, core.pages()));
    if (literals.found().size() > known) {
      tested = tested(columns);
      matches.forEach((object, match) -> seen.files.put(object, match.file));
    }
    Watch.Step step =
        core.watch().step("search files for rows", Progress.Unit.FILES, seen.files.size());
    try (Ahead<Found> ahead = new Ahead<>(core.workers(), this::take)) {
      seen.files.forEach(
          (object, file) -> {
            ahead.add(() -> search(file));
            step.add(1);
          });
      if (takesMissingAsNull) {
        seen.versions.forEach(version -> searchAsNull(version, ahead));
      }
      ahead.finish();
    }
    hit.removeIf(literal -> !literal.isOfCondition() && isSharedIn(table, literal));
    hit.forEach(literal -> named.put(literal.where(), literal.form()));
    hit.clear();
    seen.versions.forEach(this::lacks);
    pages.addAll(seen.entered);
    page = table.page();
    head = table.head();
  }

  /**
   * Forgets the files that no kept version has any more.
   *
   * @return whether there was one
   */
  boolean forgetGone(LakeState state) {
    Set<String> there = new HashSet<>();
    new TableWalk(
            core.pages(),
            new TableWalk.Visitor() {
              @Override
              public boolean page(PageRef ref) {
                return true;
              }

              @Override
              public void files(List<FileEntry> entries) {
                entries.forEach(file -> there.add(file.objectName(id)));
              }
            })
        .through(listing(state));
    return matches.keySet().retainAll(there);
  }

  /** Whether a row that is not meant has a value, too: then it tells of nobody. */
  private boolean isSharedIn(TableListing table, FormLiterals.Literal literal) {
    boolean[] isShared = new boolean[1];
    Set<String> read = new HashSet<>();
    new TableWalk(
            core.pages(),
            new TableWalk.Visitor() {
              @Override
              public boolean page(PageRef ref) {
                return !isShared[0];
              }

              @Override
              public void files(List<FileEntry> entries) {
                for (FileEntry file : entries) {
                  boolean isNew = !isShared[0] && read.add(file.objectName(id));
                  isShared[0] |= isNew && literal.test().mayHold(file) && isSharedIn(file, literal);
                }
              }
            })
        .through(table);
    return isShared[0];
  }

  private boolean isSharedIn(FileEntry file, FormLiterals.Literal literal) {
    try (DataFileReader reader = reader(file, Filter.bind(Condition.all(), tested), tested)) {
      for (Optional<Batch> batch = reader.next(); batch.isPresent(); batch = reader.next()) {
        long[] meant = select(filter, batch.get(), reader, file);
        long[] having = literal.test().select(batch.get());
        for (int word = 0; word < having.length; word++) {
          if ((having[word] & ~meant[word]) != 0) {
            return true;
          }
        }
      }
    }
    return false;
  }

  private long[] select(Filter filter, Batch batch, DataFileReader reader, FileEntry file) {
    try {
      return filter.select(batch);
    } catch (ComputeException e) {
      throw e.inFile(reader.position(), file.numbers().number(), name);
    }
  }

  private DataFileReader reader(FileEntry file, Filter pruner, Schema read) {
    return new DataFileReader(
        core.store(),
        ScanPlan.fileOf(id, file),
        id,
        read.struct(),
        pruner,
        core.reading().footers());
  }

  /** What a walk meets for the first time. */
  private final class Seen implements TableWalk.Visitor {
    private final Set<PageRef> entered = new HashSet<>();
    private final List<VersionPage> versions = new ArrayList<>();
    private final Map<String, FileEntry> files = new HashMap<>();

    @Override
    public boolean page(PageRef ref) {
      entered.add(ref);
      return !pages.contains(ref);
    }

    @Override
    public void version(VersionPage version) {
      versions.add(version);
      used.add(new FormLiterals.Form(false, version.schemaVersion()));
      used.add(new FormLiterals.Form(true, version.layoutVersion()));
    }

    @Override
    public void files(List<FileEntry> entries) {
      for (FileEntry file : entries) {
        FileEntry.WrittenBy by = file.numbers().writtenBy();
        used.add(new FormLiterals.Form(false, by.schema()));
        used.add(new FormLiterals.Form(true, by.layout()));
        used.add(new FormLiterals.Form(true, by.order() - 1));
        String object = file.objectName(id);
        if (!searched.contains(object)) {
          files.put(object, file);
        }
      }
    }
  }

  private void lacks(VersionPage version) {
    missing(version)
        .forEach(
            column ->
                lacking
                    .computeIfAbsent(column.name(), c -> new ArrayList<>())
                    .add(version.version()));
  }

  /** The columns of the condition that a version with rows lacks. */
  private List<Field> missing(VersionPage version) {
    return filter.columns().values().stream()
        .filter(column -> version.files().count() > 0)
        .filter(column -> version.schema().field(column.id()).isEmpty())
        .toList();
  }

  /** Tests the rows of a version that lacks columns as if they were null in it. */
  private void searchAsNull(VersionPage version, Ahead<Found> ahead) {
    Set<Integer> ids = missing(version).stream().map(Field::id).collect(Collectors.toSet());
    if (ids.isEmpty()) {
      return;
    }
    Schema nullable = WiderColumns.asNull(columns, ids);
    Filter other = Filter.bind(condition.simplified(), nullable);
    Schema read = tested(nullable);
    TreeCursor<FileEntry, ?> files = version.fileTree(core.pages()).cursor();
    while (files.next()) {
      FileEntry file = files.value();
      if (searchedAsNull.add(new AsNull(file.objectName(id), ids))) {
        ahead.add(() -> search(file, other, Filter.bind(Condition.all(), read), read));
      }
    }
  }

  private Found search(FileEntry file) {
    if (!isThorough && filter.test(file) == Verdict.NONE) {
      return new Found(file, new RoaringBitmap(), Set.of(), 0);
    }
    Filter pruner = isThorough ? Filter.bind(Condition.all(), tested) : filter;
    return search(file, filter, pruner, tested);
  }

  private Found search(FileEntry file, Filter filter, Filter pruner, Schema read) {
    RoaringBitmap positions = new RoaringBitmap();
    Set<FormLiterals.Literal> where = new HashSet<>();
    try (DataFileReader reader = reader(file, pruner, read)) {
      for (Optional<Batch> batch = reader.next(); batch.isPresent(); batch = reader.next()) {
        long[] selected = select(filter, batch.get(), reader, file);
        for (int row : Gather.positions(selected)) {
          positions.add((int) reader.position() + row);
        }
        Batch meant = Gather.select(batch.get(), selected);
        if (meant.size() > 0) {
          literals.found().stream().filter(literal -> literal.isIn(meant)).forEach(where::add);
        }
      }
      return new Found(file, positions, where, reader.statistics().rowsRead());
    } catch (DamagedException e) {
      throw new DamagedException(
          "A data file of table %s cannot be searched for rows to be erased: %s Alternatively, expire the versions that contain the file, and erase again."
              .formatted(name, e.getMessage()),
          e);
    }
  }

  private void take(Found found) {
    searched.add(found.file.objectName(id));
    rowsRead += found.rows;
    hit.addAll(found.named);
    if (!found.positions.isEmpty()) {
      Match known = matches.get(found.file.objectName(id));
      if (known != null) {
        found.positions.or(known.positions);
      }
      matches.put(found.file.objectName(id), new Match(found.file, found.positions));
    }
  }

  /** The files in which rows are meant, by their names in the store. */
  Map<String, Match> matches() {
    return matches;
  }

  /** Where those files stand in the trees of versions, ascending. */
  List<byte[]> keys() {
    SortedSet<byte[]> keys = new TreeSet<>(Arrays::compareUnsigned);
    matches.values().forEach(match -> keys.add(match.file.key()));
    return List.copyOf(keys);
  }

  /** The rows of one of those files that are meant and count in a version; the caller's own. */
  RoaringBitmap counting(FileEntry file, PageStore store) {
    RoaringBitmap rows = matches.get(file.objectName(id)).positions.clone();
    rows.andNot(file.maskedPositions(store));
    return rows;
  }

  /** Where values of the rows are written in forms that a version or a file still needs. */
  List<String> named() {
    return named.entrySet().stream()
        .filter(where -> used.contains(where.getValue()))
        .map(Map.Entry::getKey)
        .toList();
  }

  /** Older forms in which values of the rows are written, and which nothing needs. */
  Set<FormLiterals.Form> unneeded() {
    Set<FormLiterals.Form> forms = new HashSet<>(named.values());
    forms.removeAll(used);
    return forms;
  }

  /** The versions that lack a column of the condition and have rows, by its name. */
  Map<String, List<Long>> lacking() {
    return lacking;
  }

  /** How many files were looked at. */
  long filesSeen() {
    return searched.size();
  }

  /** How many rows were read. */
  long rowsRead() {
    return rowsRead;
  }

  /** How many rows were found, those included that count in no version any more. */
  long rows() {
    return matches.values().stream().mapToLong(Match::rows).sum();
  }
}
