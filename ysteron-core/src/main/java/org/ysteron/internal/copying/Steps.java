package org.ysteron.internal.copying;

import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.function.BiFunction;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.Supplier;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.NothingToDo;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;

/**
 * Copies of old pages on which records hang, a step after the other: each step's copies are stored
 * as an object of pages before the commit that refers to them, so that a commit that meets another
 * one makes nothing anew but the records' own leaves. What steps share is copied once. For one
 * thread.
 */
final class Steps {
  /** A step has at most so many records, whose leaves then fit into an entry. */
  static final int RECORDS = 256;

  /** A step ends when it has copied so much. */
  private static final int MOST_BYTES = 4 << 20;

  /** From so many copies on only those are remembered that the next step may share. */
  private static final int MOST_KNOWN = 100_000;

  private final LakeCore core;
  private final Predicate<PageRef> isOld;
  private final BiFunction<Long, UUID, PageHome> object;
  private final Copying.Committer committer;
  private final Map<PageRef, PageRef> known = new HashMap<>();
  private long bytes;

  /**
   * Copies nothing yet.
   *
   * @param object names an object of pages by the entry from which it was started and an id
   */
  Steps(
      LakeCore core,
      Predicate<PageRef> isOld,
      BiFunction<Long, UUID, PageHome> object,
      Copying.Committer committer) {
    this.core = core;
    this.isOld = isOld;
    this.object = object;
    this.committer = committer;
  }

  /** How many bytes were copied. */
  long bytes() {
    return bytes;
  }

  /** Copies of pages by what they were copied from. */
  Map<PageRef, PageRef> known() {
    return known;
  }

  /** Copies a page on which a record hangs, with all that hangs on it. */
  interface Copier {
    PageRef copy(PageRef old, PageCopies copies);
  }

  /**
   * Copies some pages, as far as one step goes.
   *
   * @param start the entry from which this is started
   * @return the copies by what they were copied from; of the first pages at least
   */
  Map<PageRef, PageRef> copy(List<PageRef> pages, long start, Copier copier) {
    PageBatch batch = new PageBatch();
    Map<PageRef, PageRef> made = new HashMap<>();
    PageCopies copies = new PageCopies(core.pages(), isOld, known, batch, made);
    Map<PageRef, PageRef> moved = new HashMap<>();
    for (PageRef old : pages) {
      moved.put(old, copier.copy(old, copies));
      if (batch.size() > MOST_BYTES) {
        break;
      }
    }
    if (batch.size() > 0) {
      batch.store(core.store(), object.apply(start, UUID.randomUUID()));
      batch.home().release();
      bytes += batch.size();
    }
    known.putAll(made);
    return moved;
  }

  /**
   * One step: copies what records have, as far as one step goes, and commits where it is now.
   *
   * @param pageOf the page that hangs on a record
   * @param change the records that were copied, and where their pages are
   * @param pagesOf the old pages of a record that the next one may have, too
   * @return the last record that was copied
   */
  <R> R step(
      LakeState start,
      List<R> records,
      Function<R, PageRef> pageOf,
      Copier copier,
      BiFunction<List<R>, Map<PageRef, PageRef>, Change> change,
      Function<R, List<PageRef>> pagesOf) {
    Map<PageRef, PageRef> moved =
        copy(records.stream().map(pageOf).toList(), start.number(), copier);
    List<R> copied =
        records.stream().filter(record -> moved.containsKey(pageOf.apply(record))).toList();
    try {
      committer.commit(change.apply(copied, moved), start);
    } catch (NothingToDo e) {
      // somebody else has set a floor, or they have expired
    }
    R last = copied.get(copied.size() - 1);
    forgetBut(() -> pagesOf.apply(last));
    return last;
  }

  /** Forgets copies, when they are many, but for some. */
  private void forgetBut(Supplier<List<PageRef>> shared) {
    if (known.size() > MOST_KNOWN) {
      known.keySet().retainAll(new HashSet<>(shared.get()));
    }
  }
}
