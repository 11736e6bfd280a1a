package org.ysteron.internal.transact;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeMap;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.internal.form.Proof;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.seen.KeyTest;
import org.ysteron.internal.seen.Proofs;
import org.ysteron.internal.seen.SeenTable;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.Check;
import org.ysteron.report.SkippedRows;

/**
 * Proves at the commit what a transaction and the others need of each other's rows: what its
 * alterations ask of rows that came since it started, what others' alterations ask of the rows that
 * it brings, and that no two rows have one key.
 */
final class LateProofs {
  private final TableWork work;
  private final SeenTable mine;
  private final Replay replay;
  private final Reconciled with;
  private final Conflicts conflicts;
  private final PageStore pages;
  private final List<Proof> tightened;

  LateProofs(TableWork work, Replay replay, Reconciled with, Conflicts conflicts, PageStore pages) {
    this.work = work;
    this.mine = work.table();
    this.replay = replay;
    this.with = with;
    this.conflicts = conflicts;
    this.pages = pages;
    this.tightened = with.now().map(this::tightened).orElse(List.of());
  }

  /**
   * Proves all of it.
   *
   * @param built the table as it will be
   * @param own the transaction's files in it, by the numbers that they have in the transaction
   */
  void prove(VersionPage built, Map<Long, FileEntry> own) {
    if (with.now().isEmpty()) {
      return;
    }
    List<FileEntry> newborn = newborn(built);
    List<KeyTest.Looked> looked = looked(newborn);
    for (KeyTest test : work.keyTests()) {
      KeyTest.Found found = test.atCommit(built, own, looked);
      if (!found.isNothing()) {
        throw work.isFinal()
            ? found.refusal(mine.name(), "Upsert them, or skip the rows whose keys exist.")
            : conflicts.ofKeys(found.told());
      }
    }
    Proofs proofs = new Proofs(mine, built);
    for (Proof proof : KeyRule.asked(replay.proofs(), with.now().get(), built)) {
      refuse(proofs.against(proof, newborn));
    }
    if (!tightened.isEmpty() && !own.isEmpty()) {
      mine.awaitFiles();
      List<FileEntry> files = List.copyOf(own.values());
      tightened.forEach(proof -> refuse(proofs.against(proof, files)));
    }
  }

  /** Those of the files that came in which a row was born since, as they are in a version. */
  private List<FileEntry> newborn(VersionPage built) {
    List<FileEntry> newborn = new ArrayList<>();
    for (FileEntry file : with.came()) {
      if (file.hasBornSince(mine.seen())) {
        built.fileTree(pages).get(file.key()).ifPresent(newborn::add);
      }
    }
    return newborn;
  }

  private List<KeyTest.Looked> looked(List<FileEntry> newborn) {
    return newborn.stream()
        .map(file -> new KeyTest.Looked(file, OptionalLong.of(mine.seen())))
        .toList();
  }

  /** Whether rows of the transaction's may not fit what others did since it started. */
  boolean maySuffer() {
    return !tightened.isEmpty() || (!work.keyTests().isEmpty() && !with.came().isEmpty());
  }

  /**
   * Rows of the transaction's that do not fit what others ask since.
   *
   * @param told how many, and why
   * @param rows their positions, by the file's number in the transaction
   */
  record Misfits(SkippedRows told, Map<Long, RoaringBitmap> rows) {}

  /**
   * Finds the rows of the transaction's that do not fit what others ask since.
   *
   * @param trial the table as it would be with all of them
   * @param own the transaction's files in it, by the numbers that they have in the transaction
   */
  Misfits misfits(VersionPage trial, Map<Long, FileEntry> own) {
    mine.awaitFiles();
    Proofs proofs = new Proofs(mine, trial);
    Map<Long, RoaringBitmap> rows = new TreeMap<>();
    SkippedRows told = SkippedRows.NONE;
    List<KeyTest.Looked> looked = looked(newborn(trial));
    for (KeyTest test : work.keyTests()) {
      KeyTest.Found found = test.atCommit(trial, own, looked);
      if (!found.isNothing()) {
        told = told.and(add(own, found.rows(), rows), found.told());
      }
    }
    for (Proof proof : tightened) {
      Optional<Proofs.Against> against = proofs.against(proof, List.copyOf(own.values()));
      if (against.isPresent()) {
        told = told.and(add(own, against.get().rows(), rows), against.get().what());
      }
    }
    return new Misfits(told, rows);
  }

  /** How many rows were neither left out before nor removed by the transaction itself. */
  private long add(
      Map<Long, FileEntry> own, Map<FileEntry, RoaringBitmap> more, Map<Long, RoaringBitmap> rows) {
    long added = 0;
    for (Map.Entry<Long, FileEntry> file : own.entrySet()) {
      RoaringBitmap fresh = more.getOrDefault(file.getValue(), new RoaringBitmap()).clone();
      fresh.andNot(with.ownMask(file.getKey()));
      RoaringBitmap all = rows.computeIfAbsent(file.getKey(), number -> new RoaringBitmap());
      fresh.andNot(all);
      all.or(fresh);
      added += fresh.getLongCardinality();
    }
    return added;
  }

  private void refuse(Optional<Proofs.Against> against) {
    against.ifPresent(
        what -> {
          throw conflicts.ofProof(what.toString());
        });
  }

  /** What others ask of rows since this transaction started. */
  private List<Proof> tightened(VersionPage now) {
    List<Proof> proofs = new ArrayList<>();
    TableForm before = mine.start().form();
    TableForm after = now.form();
    if (KeyRule.isToBeProved(mine.start(), now)) {
      proofs.add(new Proof.UniqueKey());
    }
    if (before.schemaVersion() == after.schemaVersion()) {
      return proofs;
    }
    tightened(before.schema(), after.schema().columns(), proofs);
    for (Check check : after.checks()) {
      // One of the same name may be another: it was dropped and added with another condition.
      if (!before.checks().contains(check)) {
        proofs.add(new Proof.Holds(check.name()));
      }
    }
    return proofs;
  }

  private static void tightened(Schema before, List<Field> fields, List<Proof> proofs) {
    for (Field field : fields) {
      boolean was = before.field(field.id()).filter(Field::required).isPresent();
      if (field.required() && !was) {
        proofs.add(new Proof.NoNulls(field.id()));
      }
      if (before.field(field.id()).isPresent()) {
        tightened(before, Schema.children(field.type()), proofs);
      }
    }
  }
}
