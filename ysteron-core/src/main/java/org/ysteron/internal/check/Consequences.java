package org.ysteron.internal.check;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.TreeLeads;
import org.ysteron.proof.Finding;

/** Finds which versions of which tables something wrong concerns, in one state. For one thread. */
final class Consequences {
  private final PageStore pages;
  private final List<TableListing> tables;
  private final Set<PageRef> damaged = new HashSet<>();
  private final Map<UUID, List<Version>> versions = new HashMap<>();

  /** A version of a table, and to which damaged pages it leads. */
  private record Version(HistoryRecord record, Optional<VersionPage> page, Set<PageRef> leads) {}

  /** {@code damaged}: all pages that will be asked for. */
  Consequences(LakeState state, PageStore pages, Set<PageRef> damaged) {
    this.pages = pages;
    this.damaged.addAll(damaged);
    List<TableListing> all = new ArrayList<>();
    try {
      all = state.page().allByName(pages);
    } catch (DamagedException | ExpiredException e) {
      // of no table can be said what is concerned
    }
    this.tables = all;
  }

  /** The versions; of a data file none when no version needs it. */
  List<Finding.Affected> of(Findings.Subject subject) {
    List<Finding.Affected> affected = new ArrayList<>();
    for (TableListing table : tables) {
      if (mayConcern(subject, table.id())) {
        affected.addAll(among(table, subject));
      }
    }
    return affected;
  }

  private static boolean mayConcern(Findings.Subject subject, UUID table) {
    if (subject instanceof Findings.OfFile file) {
      return file.table().equals(table);
    }
    if (subject instanceof Findings.OfVersions some) {
      return some.table().equals(table);
    }
    return subject instanceof Findings.OfPage;
  }

  /** How many rows of a version are concerned; -1 when it is not. */
  private long rows(Findings.Subject subject, UUID table, Version version) {
    if (subject instanceof Findings.OfFile file) {
      return rowsOf(file.file(), table, version);
    }
    long number = version.record.version();
    boolean isConcerned =
        subject instanceof Findings.OfPage page
            ? version.leads.contains(page.page())
            : subject instanceof Findings.OfVersions some
                && number >= some.first()
                && number <= some.last();
    return isConcerned ? version.record.totals().rows() : -1;
  }

  private List<Finding.Affected> among(TableListing table, Findings.Subject subject) {
    List<Finding.Affected> affected = new ArrayList<>();
    List<Version> all = versions.computeIfAbsent(table.id(), id -> read(table));
    int first = -1;
    long rows = 0;
    for (int i = 0; i <= all.size(); i++) {
      long here = i == all.size() ? -1 : rows(subject, table.id(), all.get(i));
      if (here >= 0) {
        first = first < 0 ? i : first;
        rows = here;
      } else if (first >= 0) {
        affected.add(
            new Finding.Affected(
                table.name(),
                all.get(first).record.version(),
                all.get(i - 1).record.version(),
                rows,
                all.get(first).record.commit().time(),
                i == all.size() ? Optional.empty() : Optional.of(timeOf(all.get(i)))));
        first = -1;
      }
    }
    return affected;
  }

  private static Instant timeOf(Version version) {
    return version.record.marks().missing().orElse(version.record.commit().time());
  }

  private long rowsOf(FileEntry file, UUID table, Version version) {
    try {
      return version
          .page
          .flatMap(page -> page.fileTree(pages).get(file.key()))
          .filter(there -> there.objectName(table).equals(file.objectName(table)))
          .map(FileEntry::liveRows)
          .orElse(-1L);
    } catch (DamagedException | ExpiredException e) {
      return -1;
    }
  }

  private List<Version> read(TableListing table) {
    TreeLeads<FileEntry, FileSummary> leads = new TreeLeads<>(pages, FileFormat.INSTANCE, damaged);
    List<Version> read = new ArrayList<>();
    Set<PageRef> ofHead = new HashSet<>(Set.of(table.head()));
    Instant last = Instant.EPOCH;
    try {
      TableHead head = TableHead.read(table.head(), pages);
      ofHead.addAll(
          new TreeLeads<>(pages, head.historyTree(pages).format(), damaged).of(head.history()));
      for (HistoryRecord record : head.records(pages)) {
        read.add(read(record, record.page().orElseThrow(), leads, Set.of()));
        last = record.commit().time();
      }
    } catch (DamagedException | ExpiredException e) {
      read.clear(); // the table can be read, but neither its past nor written to
    }
    ofHead.retainAll(damaged);
    read.add(read(newest(table, last), table.page(), leads, ofHead));
    return read;
  }

  /** What is known of the newest version. */
  private HistoryRecord newest(TableListing table, Instant before) {
    try {
      return VersionPage.read(table.page(), pages).record();
    } catch (DamagedException | ExpiredException e) {
      return table.lost(before);
    }
  }

  private Version read(
      HistoryRecord record,
      PageRef own,
      TreeLeads<FileEntry, FileSummary> leads,
      Set<PageRef> beside) {
    Set<PageRef> found = new HashSet<>(beside);
    if (damaged.contains(own)) {
      found.add(own);
    }
    try {
      VersionPage page = VersionPage.read(own, pages);
      page.plainPages().stream().filter(damaged::contains).forEach(found::add);
      found.addAll(leads.of(page.files()));
      return new Version(record, Optional.of(page), found);
    } catch (DamagedException | ExpiredException e) {
      return new Version(record, Optional.empty(), found);
    }
  }
}
