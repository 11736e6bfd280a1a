package org.ysteron.internal.check;

import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.FileProof;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Ahead;
import org.ysteron.internal.work.Watch;
import org.ysteron.option.Budget;
import org.ysteron.progress.Progress;
import org.ysteron.proof.Finding;

/**
 * Looks at data files, each once, in the order of their names, several at a time. Is told of them
 * by one thread, and run by it.
 */
final class FileCheck {
  private final LakeCore core;
  private final PageStore pages;
  private final Findings findings;
  private final boolean everyByte;
  private final Map<UUID, OfTable> files = new HashMap<>();
  private final long began = System.nanoTime();
  private long looked;
  private long bytes;

  /** A file of a table. */
  private record OfTable(TableListing table, FileEntry file) {
    String name() {
      return file.objectName(table.id());
    }
  }

  FileCheck(LakeCore core, PageStore pages, Findings findings, boolean everyByte) {
    this.core = core;
    this.pages = pages;
    this.findings = findings;
    this.everyByte = everyByte;
  }

  /** Is told a file, often more than once. */
  void add(TableListing table, FileEntry file) {
    OfTable known = files.putIfAbsent(file.id(), new OfTable(table, file));
    if (known != null && !known.file.isSameFileAs(file)) {
      findings.add(
          Finding.Kind.CONTRADICTION,
          file.objectName(table.id()),
          "Two versions of table %s describe this file differently.".formatted(table.name()),
          new Findings.OfFile(table.id(), file));
    }
    if (file.mask().isPresent()) {
      mask(table, file);
    }
  }

  private void mask(TableListing table, FileEntry file) {
    try {
      RoaringBitmap masked = file.maskedPositions(pages);
      boolean isRight =
          masked.getLongCardinality() == file.numbers().maskedRows()
              && Integer.toUnsignedLong(masked.last()) < file.rows();
      if (!isRight) {
        findings.add(
            Finding.Kind.CONTRADICTION,
            file.objectName(table.id()),
            "Its entry says that %d of its %d rows are masked, but its row mask has %d."
                .formatted(file.numbers().maskedRows(), file.rows(), masked.getLongCardinality()),
            new Findings.OfFile(table.id(), file));
      }
    } catch (DamagedException | ExpiredException e) {
      return; // told where that page is
    }
  }

  /**
   * Looks at them.
   *
   * @param after only at those whose names come behind it
   * @return the last name, when a budget was spent before all were looked at
   */
  Optional<String> run(String after, Budget budget) {
    SortedMap<String, OfTable> ordered = new TreeMap<>();
    files.values().forEach(file -> ordered.put(file.name(), file));
    SortedMap<String, OfTable> left = ordered.tailMap(after + '\0'); // what comes behind it
    String last = after;
    Watch.Step step = core.watch().step("check files", Progress.Unit.FILES, left.size());
    try (Ahead<Long> ahead = new Ahead<>(core.workers(), this::took)) {
      long begun = 0;
      long begunBytes = 0;
      for (Map.Entry<String, OfTable> each : left.entrySet()) {
        OfTable file = each.getValue();
        if (begun > 0
            && budget.isSpent(begunBytes, begun, Duration.ofNanos(System.nanoTime() - began))) {
          ahead.finish();
          return Optional.of(last);
        }
        begun++;
        begunBytes += everyByte ? file.file.size() : file.file.numbers().footerLength();
        last = each.getKey();
        ahead.add(() -> look(file));
        step.add(1);
      }
      ahead.finish();
    }
    return Optional.empty();
  }

  private void took(long read) {
    looked++;
    bytes += read;
  }

  private long look(OfTable of) {
    DataFile file = ScanPlan.fileOf(of.table.id(), of.file);
    try {
      return everyByte
          ? FileProof.bytes(core.store(), file, of.table.id(), of.file.hash())
          : FileProof.footer(core.store(), file, of.table.id());
    } catch (DamagedException e) {
      findings.unreadable(
          Finding.Kind.FILE, of.name(), e, new Findings.OfFile(of.table.id(), of.file));
      return 0;
    }
  }

  long looked() {
    return looked;
  }

  long bytes() {
    return bytes;
  }
}
