package org.ysteron.internal.seen;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.KeyExistsException;
import org.ysteron.error.KeyExistsException.Existing;
import org.ysteron.internal.changes.SerialFinder;
import org.ysteron.internal.changes.Touch;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.keys.BroughtKeys;
import org.ysteron.internal.keys.KeyIndex;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.keys.KeyScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.RowLookup;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.text.Counted;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.internal.work.Ahead;
import org.ysteron.internal.work.Watch;
import org.ysteron.option.KeyTesting;
import org.ysteron.progress.Progress;

/**
 * Whether rows that a write brings have keys that no other row has: neither among themselves nor in
 * the table.
 *
 * <p>Of the table those files are looked at that ranges and bloom filters leave, and of them the
 * key columns. Keys that are too many for memory are read again from the files they were written
 * to, in parts by their hash. For one thread.
 */
public final class KeyTest {
  private static final int MOST_SAMPLES = 3;

  private final SeenTable table;
  private final ReadContext context;
  private final BroughtKeys keys;
  private final List<StagedFile> files;
  private final long number;
  private final Set<Long> free = new HashSet<>();
  private Filter filter;
  private long filterSchema = -1;

  /**
   * A test of the rows in some files of a transaction.
   *
   * @param number of the first of the files, in the transaction; the others follow
   */
  public KeyTest(SeenTable table, BroughtKeys keys, List<StagedFile> files, long number) {
    this.table = table;
    this.context = table.context();
    this.keys = keys;
    this.files = files;
    this.number = number;
  }

  /** A test of the rows in some files of a table, which are read for it. */
  public static KeyTest ofFiles(SeenTable table, VersionPage page, List<FileEntry> entries) {
    long rows = entries.stream().mapToLong(FileEntry::liveRows).sum();
    return new KeyTest(table, BroughtKeys.unread(page.schema(), rows), List.of(), 0);
  }

  /**
   * What was found.
   *
   * @param count rows whose key another row has
   * @param some of the keys
   * @param rows where they are in the files that bring them; of rows that have one key the first is
   *     not among them
   */
  public record Found(long count, List<Existing> some, Map<FileEntry, RoaringBitmap> rows) {
    public static final Found NOTHING = new Found(0, List.of(), Map.of());

    public boolean isNothing() {
      return count == 0;
    }

    public KeyExistsException refusal(String table, String then) {
      return new KeyExistsException(table, count, some, then);
    }

    /** In words: the keys, and where they are. */
    public String told() {
      return "%s cannot be added because of existing keys: %s"
          .formatted(Counted.of(count, "row"), Existing.list(some));
    }

    /** The rows as removed from the files that bring them. */
    public List<Touch> touches() {
      List<Touch> touches = new ArrayList<>();
      rows.forEach(
          (file, positions) ->
              touches.add(
                  new Touch(file, positions, positions.getLongCardinality() == file.liveRows())));
      return touches;
    }
  }

  /** The files of the rows in a draft of the transaction; those without rows are left out. */
  private List<FileEntry> own(VersionPage draft) {
    List<FileEntry> own = new ArrayList<>();
    for (int i = 0; i < files.size(); i++) {
      draft.fileTree(context.pages()).get(files.get(i).key(number + i)).ifPresent(own::add);
    }
    return own;
  }

  /** Tests rows that a statement brings, by the rule of the table. */
  public Found atStatement(VersionPage draft) {
    return KeyRule.of(draft) == KeyTesting.EXACT
        ? inTable(draft, own(draft))
        : find(draft, draft, KeyScan.everything(draft), own(draft), List.of(), true);
  }

  /** Joins the tests that a commit has to make again. */
  public void keepForCommit(List<KeyTest> tests) {
    if (KeyRule.of(table.draft()) == KeyTesting.EXACT) {
      tests.add(this);
    }
  }

  /** A file to look at, or those of its rows that were born later than a commit. */
  public record Looked(FileEntry file, OptionalLong since) {}

  /**
   * Tests the rows among themselves and against the table.
   *
   * @param page the table with the rows
   * @param own the files that bring them
   */
  public Found inTable(VersionPage page, List<FileEntry> own) {
    Filter some = filter(page);
    Set<Long> brought = new HashSet<>();
    own.forEach(file -> brought.add(file.numbers().number()));
    List<Looked> candidates = new ArrayList<>();
    TreeCursor<FileEntry, FileSummary> cursor = page.files(some, context.pages());
    while (cursor.next()) {
      if (!brought.contains(cursor.value().numbers().number())) {
        candidates.add(new Looked(cursor.value(), OptionalLong.empty()));
      }
    }
    return find(page, page, some, own, candidates, true);
  }

  /**
   * Tests the rows at the commit, against those of files that came since.
   *
   * @param built the table as it will be
   * @param own the transaction's files in it, by the numbers they have in the transaction
   */
  public Found atCommit(VersionPage built, Map<Long, FileEntry> own, List<Looked> came) {
    if (!isAsked(built)) {
      return Found.NOTHING;
    }
    // All of them, for the rows may have been moved since they were written.
    return since(built, built, List.copyOf(own.values()), came);
  }

  /** Looks ahead of the commit at files that came since; what is found will be found again. */
  public void ahead(VersionPage now, List<Looked> came) {
    if (isAsked(now) && keys.isOf(now.schema())) {
      since(now, table.draft(), own(table.draft()), came);
    }
  }

  /** Whether a version still asks for this; another key is proved as what others ask is. */
  private boolean isAsked(VersionPage page) {
    return keys.isKeyOf(page.schema()) && KeyRule.of(page) == KeyTesting.EXACT;
  }

  /** What files may hold one of the keys; made once for a schema. */
  private Filter filter(VersionPage page) {
    if (filter == null || filterSchema != page.schemaVersion()) {
      filter = page.filter(keys.bounds(page.schema()), context.pages());
      filterSchema = page.schemaVersion();
    }
    return filter;
  }

  /** None of the files in which no key was found is looked at again. */
  private Found since(
      VersionPage page, VersionPage ownPage, List<FileEntry> own, List<Looked> came) {
    Filter some = filter(page);
    List<Looked> candidates = new ArrayList<>();
    for (Looked file : came) {
      boolean known = free.contains(file.file.numbers().number());
      if (!known && some.testFiles(file.file) != Verdict.NONE) {
        candidates.add(file);
      }
    }
    return find(page, ownPage, some, own, candidates, false);
  }

  private Found find(
      VersionPage page,
      VersionPage ownPage,
      Filter filter,
      List<FileEntry> own,
      List<Looked> candidates,
      boolean amongThemselves) {
    if (candidates.isEmpty() && (!amongThemselves || keys.areDifferent())) {
      return Found.NOTHING;
    }
    table.awaitFiles();
    boolean known = keys.isInMemory() && keys.isOf(page.schema());
    int parts = known ? 1 : (int) (keys.rows() / KeyIndex.most()) + 1;
    Found all = Found.NOTHING;
    Set<Long> met = new HashSet<>();
    for (int p = 0; p < parts; p++) {
      Portion part =
          known
              ? new Portion(page, ownPage, filter, keys.index(), keys.twice())
              : new Portion(page, ownPage, filter, own, p, parts);
      part.look(candidates);
      met.addAll(part.met);
      if (!known && parts == 1 && part.twice == 0 && mayRemember(ownPage, own, amongThemselves)) {
        keys.remember(part.index);
      }
      if (!part.found.isEmpty() || (amongThemselves && part.twice > 0)) {
        part.mark(own, amongThemselves);
        all = united(all, part.found());
      }
    }
    // Rows that are left out now were not read, and may be there when the commit tries again.
    if (!amongThemselves && (known || isWhole(own, table.files().size()))) {
      setFree(candidates, met);
    }
    return all;
  }

  private static boolean isWhole(List<FileEntry> own, int expected) {
    return own.size() == expected && own.stream().allMatch(file -> file.mask().isEmpty());
  }

  /** Whether what was read is all that was written, in the types that it was written in. */
  private boolean mayRemember(VersionPage ownPage, List<FileEntry> own, boolean amongThemselves) {
    return !files.isEmpty()
        && keys.isOf(ownPage.schema())
        && isWhole(own, amongThemselves ? files.size() : table.files().size());
  }

  /** Remembers files of the table by their numbers; a transaction's own may have the same. */
  private void setFree(List<Looked> looked, Set<Long> met) {
    looked.forEach(each -> free.add(each.file.numbers().number()));
    free.removeAll(met);
  }

  private static Found united(Found one, Found other) {
    List<Existing> some = new ArrayList<>(one.some);
    some.addAll(other.some);
    Map<FileEntry, RoaringBitmap> rows = new LinkedHashMap<>(one.rows);
    other.rows.forEach((file, more) -> rows.merge(file, more, (a, b) -> RoaringBitmap.or(a, b)));
    return new Found(
        one.count + other.count, some.subList(0, Math.min(some.size(), MOST_SAMPLES)), rows);
  }

  /** Those of the keys that are in memory at once. */
  private final class Portion {
    private final VersionPage page;
    private final VersionPage ownPage;
    private final Filter filter;
    private final KeyIndex index;
    private final RoaringBitmap found = new RoaringBitmap();
    private final List<Existing> some = new ArrayList<>();
    private final Set<Long> met = new HashSet<>();
    private final Map<FileEntry, RoaringBitmap> rows = new LinkedHashMap<>();
    private long twice;
    private long count;

    Portion(VersionPage page, VersionPage ownPage, Filter filter, KeyIndex index, long twice) {
      this.page = page;
      this.ownPage = ownPage;
      this.filter = filter;
      this.index = index;
      this.twice = twice;
    }

    /** Reads the keys of one part by hash again. */
    Portion(
        VersionPage page,
        VersionPage ownPage,
        Filter filter,
        List<FileEntry> own,
        int part,
        int parts) {
      this(page, ownPage, filter, new KeyIndex(page.schema().keyIds(), 1 << 16), 0);
      index.expectQuick(KeyIndex.most());
      KeyScan scan = new KeyScan(context, ownPage, filter);
      int[] next = {0};
      for (FileEntry file : own) {
        scan.keys(
            file,
            index.fieldIds(),
            part,
            parts,
            (hash, quick) -> {
              index.addQuick(quick);
              twice += index.putIfAbsent(hash.first(), hash.second(), next[0]++) >= 0 ? 1 : 0;
            });
      }
    }

    /** Looks the keys up in files. */
    void look(List<Looked> candidates) {
      Watch.Step step =
          context.watch().step("test keys in files", Progress.Unit.FILES, candidates.size());
      try (Ahead<Hits> ahead = new Ahead<>(table.workers(), this::take)) {
        for (Looked file : candidates) {
          ahead.add(() -> look(file));
          step.add(1);
        }
        ahead.finish();
      }
    }

    /** What a file has of the keys. */
    private record Hits(FileEntry file, RoaringBitmap keys, List<Place> some) {}

    private record Place(int position, long serial) {}

    private Hits look(Looked looked) {
      Hits hits = new Hits(looked.file, new RoaringBitmap(), new ArrayList<>());
      Optional<RoaringBitmap> among =
          looked.since.isEmpty() || looked.file.isBornSince(looked.since.getAsLong())
              ? Optional.empty()
              : Optional.of(
                  new SerialFinder(context, page).bornSince(looked.file, looked.since.getAsLong()));
      new KeyScan(context, page, filter)
          .scan(
              looked.file,
              index,
              (row, hash, position, serial) -> {
                if (among.isEmpty() || among.get().contains(position)) {
                  hits.keys.add(row);
                  if (hits.some.size() < MOST_SAMPLES) {
                    hits.some.add(new Place(position, serial));
                  }
                }
              });
      return hits;
    }

    private void take(Hits hits) {
      if (hits.keys.isEmpty()) {
        return;
      }
      long fileNumber = hits.file.numbers().number();
      met.add(fileNumber);
      found.or(hits.keys);
      for (Place place : hits.some) {
        if (some.size() < MOST_SAMPLES) {
          String key = RowLookup.describe(context, page, hits.file, place.position);
          some.add(new Existing(key, fileNumber, place.serial));
        }
      }
    }

    /** Finds the rows that bring keys which are there already, and all but the first of one key. */
    void mark(List<FileEntry> own, boolean amongThemselves) {
      RoaringBitmap seen = new RoaringBitmap();
      for (FileEntry file : own) {
        RoaringBitmap positions = new RoaringBitmap();
        int[] again = {-1};
        new KeyScan(context, ownPage, filter)
            .scan(
                file,
                index,
                (row, hash, position, serial) -> {
                  boolean first = seen.checkedAdd(row);
                  if (found.contains(row)) {
                    positions.add(position);
                  } else if (!first && amongThemselves) {
                    positions.add(position);
                    again[0] = position;
                  }
                });
        if (!positions.isEmpty()) {
          rows.put(file, positions);
          count += positions.getLongCardinality();
        }
        if (again[0] >= 0 && some.size() < MOST_SAMPLES) {
          some.add(new Existing(RowLookup.describe(context, ownPage, file, again[0]), -1, -1));
        }
      }
    }

    Found found() {
      return new Found(count, List.copyOf(some), rows);
    }
  }
}
