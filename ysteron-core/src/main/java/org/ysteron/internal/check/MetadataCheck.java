package org.ysteron.internal.check;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.BiConsumer;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.EntryRecord;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.LakeWalk;
import org.ysteron.internal.lake.PositionRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.TableWalk;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Watch;
import org.ysteron.maintenance.LakeHealth;
import org.ysteron.progress.Progress;
import org.ysteron.proof.Finding;
import org.ysteron.report.TableVersion;

/**
 * Goes through all pages that the newest state needs, each once, and compares what they say of one
 * another. For one thread.
 */
final class MetadataCheck {
  private static final long MOST_NUMBERS = 0xffff_ffffL;

  private final LakeCore core;
  private final LakeState state;
  private final PageStore pages;
  private final Findings findings;
  private final boolean isClose;
  private final BiConsumer<TableListing, FileEntry> files;
  private final LedgerCheck ledger;
  private final List<TableListing> tables = new ArrayList<>();
  private final List<HoldRecord> holds = new ArrayList<>();
  private final Map<String, PositionRecord> positions = new HashMap<>();
  private final Set<String> free = new HashSet<>();
  private final Set<UUID> freeFiles = new HashSet<>();
  private List<LakeHealth.Erasure> erasures = List.of();
  private final Watch.Step step;
  private long pagesRead;
  private long bytes;
  private long versions;

  /**
   * Has gone nowhere yet.
   *
   * @param isClose whether all that pages say of one another is compared, and entries page by page
   * @param files is told each data file of each page of files that is read
   */
  MetadataCheck(
      LakeCore core,
      LakeState state,
      PageStore pages,
      Findings findings,
      boolean isClose,
      BiConsumer<TableListing, FileEntry> files) {
    this.core = core;
    this.state = state;
    this.pages = pages;
    this.findings = findings;
    this.isClose = isClose;
    this.step = core.watch().step("check pages of metadata", Progress.Unit.PAGES);
    this.files = files;
    this.ledger = new LedgerCheck(core, state, pages, findings);
  }

  void run() {
    new LakeWalk(pages, new OfLake()).through(state.page(), state.pageRef());
    ledger.run(isClose);
    for (TableListing table : tables) {
      OfTable look = new OfTable(table);
      new TableWalk(pages, look).through(table);
      look.end();
      versions++;
    }
    holds.forEach(this::isKept);
    try {
      erasures = state.page().unfinished(pages);
    } catch (DamagedException | ExpiredException e) {
      erasures = List.of();
    }
  }

  /** Those that are not finished; none when their pages cannot be read, which is told there. */
  List<LakeHealth.Erasure> erasures() {
    return erasures;
  }

  List<TableListing> tables() {
    return tables;
  }

  long entries() {
    return ledger.entries();
  }

  long pagesRead() {
    return pagesRead;
  }

  long bytes() {
    return bytes + ledger.bytes();
  }

  long versions() {
    return versions;
  }

  /** What a position holds is what it has read. */
  private void checkPosition(HoldRecord hold) {
    PositionRecord position = positions.get(hold.name());
    boolean agrees =
        hold.kind() != HoldRecord.POSITION
            || (position != null
                && position.versions().entrySet().containsAll(hold.versions().entrySet()));
    if (!agrees) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          hold.label(),
          position == null
              ? "Versions are held for a position that does not exist."
              : "The versions that it holds differ from those up to which it has read.",
          new Findings.OfLake());
    }
  }

  private void isKept(HoldRecord hold) {
    checkPosition(hold);
    for (Map.Entry<UUID, Long> version : hold.versions().entrySet()) {
      try {
        Optional<TableListing> table = state.page().table(version.getKey(), pages);
        if (table.isEmpty() || TableHistory.of(table.get(), pages).hasExpired(version.getValue())) {
          findings.add(
              Finding.Kind.CONTRADICTION,
              "hold " + hold.name(),
              "It keeps version %d of table %s, which does not exist any more."
                  .formatted(
                      version.getValue(),
                      table.map(TableListing::name).orElse(version.getKey().toString())),
              new Findings.OfLake());
        }
      } catch (DamagedException | ExpiredException e) {
        // told where that page is
      }
    }
  }

  /** What all pages have in common. */
  private abstract class Inspected extends PageInspection {
    Inspected() {
      super(pages, core.workers(), findings);
    }

    /** Counts a page, and finds it among what nothing is to need. */
    @Override
    public boolean page(PageRef ref) {
      pagesRead++;
      step.add(1);
      bytes += ref.length();
      if (ref.home().kind() != PageHome.Kind.ENTRY && free.contains(ref.home().objectName())) {
        isFreeAndNeeded(ref.home().objectName(), new Findings.OfPage(ref));
      }
      return true;
    }

    void isFreeAndNeeded(String name, Findings.Subject subject) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          name,
          "It is recorded as free, but something refers to it.",
          subject);
    }

    @Override
    public void contradiction(PageRef page, String what) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          page.home().objectName(),
          "The page at %d of %d bytes: %s.".formatted(page.position(), page.length(), what),
          new Findings.OfPage(page));
    }

    @Override
    public boolean isClose() {
      return isClose;
    }
  }

  private final class OfLake extends Inspected {
    @Override
    public void unreadable(PageRef page, RuntimeException why) {
      super.unreadable(page, why);
      ledger.doesNotKnowAll();
    }

    @Override
    public void table(TableListing table) {
      tables.add(table);
    }

    @Override
    public void entry(EntryRecord entry) {
      ledger.remember(entry);
    }

    @Override
    public void hold(HoldRecord hold) {
      holds.add(hold);
    }

    @Override
    public void position(PositionRecord position) {
      positions.put(position.name(), position);
    }

    @Override
    public void free(FreeObject object) {
      free.add(object.name());
      FileEntry.idOf(object.name()).ifPresent(freeFiles::add);
    }
  }

  private final class OfTable extends Inspected {
    private final TableListing table;
    private final RoaringBitmap numbers = new RoaringBitmap();
    private HistoryRecord last;
    private HistoryRecord newest;
    private VersionPage current;

    OfTable(TableListing table) {
      this.table = table;
      if (free.contains(FileEntry.directory(table.id()) + "/")) {
        isFreeAndNeeded(
            FileEntry.directory(table.id()) + "/",
            new Findings.OfVersions(table.id(), 0, table.version()));
      }
    }

    private void wrong(long version, String what) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          "table %s, version %d".formatted(table.name(), version),
          what,
          new Findings.OfVersions(table.id(), version, version));
    }

    @Override
    public void version(VersionPage page) {
      current = page;
      HistoryRecord record = page.record();
      TableVersion.Totals totals = record.totals();
      if (last == null) { // the newest comes before all that it has superseded
        newest = record;
        boolean isListed =
            page.version() == table.version()
                && page.id().equals(table.id())
                && page.name().equals(table.name())
                && totals.equals(table.totals());
        if (!isListed) {
          wrong(
              table.version(),
              "The lake lists it as version %d of %s with %s, but its page says version %d of %s with %s."
                  .formatted(
                      table.version(),
                      table.name(),
                      table.totals(),
                      page.version(),
                      page.name(),
                      totals));
        }
      } else if (page.version() != last.version()) {
        wrong(last.version(), "Its page belongs to version %d.".formatted(page.version()));
      }
      if (totals.files() != page.files().count()) {
        wrong(
            page.version(),
            "Its record says %d files, but it has %d."
                .formatted(totals.files(), page.files().count()));
      }
      counted(page);
      if (record.nextSerial() > table.numbers().serial()) {
        wrong(
            page.version(),
            "Its serials go up to %d, but the table has assigned them only up to %d."
                .formatted(record.nextSerial(), table.numbers().serial()));
      }
    }

    /** What a version is said to hold against what its files are said to. */
    private void counted(VersionPage page) {
      FileSummary.Numbers files;
      try {
        files =
            page.fileTree(pages)
                .summary()
                .map(FileSummary::numbers)
                .orElse(FileSummary.Numbers.NONE);
      } catch (DamagedException | ExpiredException e) {
        return; // told where that page is
      }
      TableVersion.Totals totals = page.record().totals();
      long live = files.rows() - files.maskedRows();
      if (totals.rows() != live || totals.bytes() != files.bytes()) {
        wrong(
            page.version(),
            "Its record says %d rows and %d bytes, but its files have %d rows and %d bytes."
                .formatted(totals.rows(), totals.bytes(), live, files.bytes()));
      }
    }

    /** Rows that are there were born and have not gone, but for what a rewind put back. */
    private void lived(HistoryRecord record) {
      if (last != null && (record.marks().rewoundTo().isPresent() || isMissing(record))) {
        return;
      }
      HistoryRecord.Lives since = last == null ? HistoryRecord.Lives.NONE : last.lives();
      long rows = last == null ? 0 : last.totals().rows();
      long born = record.lives().born() - since.born();
      long gone = record.lives().gone() - since.gone();
      boolean isWhole = last != null || record.version() == 0;
      // Erased rows count as gone in each version that had them, in some more than in later ones.
      boolean isBackwards = born < 0 || (gone < 0 && !last.marks().redacted());
      if (isWhole && (isBackwards || rows + born - gone != record.totals().rows())) {
        wrong(
            record.version(),
            "From %d rows, %d inserted and %d removed, the total should not be %d."
                .formatted(rows, born, gone, record.totals().rows()));
      }
    }

    private boolean isMissing(HistoryRecord record) {
      return record.version() != last.version() + 1;
    }

    /** When all versions were met. */
    void end() {
      if (newest != null) {
        lived(newest);
      }
    }

    @Override
    public void record(HistoryRecord record) {
      versions++;
      lived(record);
      boolean isLater =
          last == null
              || (record.version() > last.version()
                  && record.commit().entry() >= last.commit().entry()
                  && !record.commit().time().isBefore(last.commit().time()));
      if (!isLater || record.version() >= table.version()) {
        wrong(
            record.version(),
            "Its time or entry is not later than those of the version before it.");
      }
      last = record;
    }

    @Override
    public void files(List<FileEntry> entries) {
      for (FileEntry file : entries) {
        FileEntry.Numbers of = file.numbers();
        boolean isGiven =
            of.number() < table.numbers().file()
                && of.firstSerial() + of.rows() <= table.numbers().serial()
                && of.maskedRows() <= of.rows()
                && of.births().least() <= of.births().greatest();
        if (!isGiven) {
          findings.add(
              Finding.Kind.CONTRADICTION,
              file.objectName(table.id()),
              "Its numbers were not assigned by table %s: %s.".formatted(table.name(), of),
              new Findings.OfFile(table.id(), file));
        }
        // The first version is walked whole, so that its files are those of one state.
        boolean isOfNewest = last == null && current != null;
        if (isOfNewest && of.number() <= MOST_NUMBERS && !numbers.checkedAdd((int) of.number())) {
          wrong(current.version(), "Two of its files have the number %d.".formatted(of.number()));
        }
        if (!freeFiles.isEmpty()
            && freeFiles.contains(file.id())
            && free.contains(file.objectName(table.id()))) {
          isFreeAndNeeded(file.objectName(table.id()), new Findings.OfFile(table.id(), file));
        }
        files.accept(table, file);
      }
    }
  }
}
