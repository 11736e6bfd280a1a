package org.ysteron.internal.seen;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.report.CommitStamp;

/**
 * What everything in a transaction uses: the lake, the state it started from, the writers of its
 * files, and the pages of its drafts, which are never stored. For one thread.
 */
public final class Scope {
  private final LakeCore core;
  private final LakeState start;
  private final ReadContext context;
  private final PageBatch batch = new PageBatch();
  private final List<TableWriter> writers = new ArrayList<>();

  public Scope(LakeCore core, LakeState start) {
    this.core = core;
    this.start = start;
    this.context = core.reading();
  }

  public LakeCore core() {
    return core;
  }

  public LakeState start() {
    return start;
  }

  /** The last commit that the transaction has seen. */
  public CommitStamp stamp() {
    return start.commit();
  }

  public ReadContext context() {
    return context;
  }

  public PageBatch batch() {
    return batch;
  }

  public TableWriter register(TableWriter writer) {
    writers.add(writer);
    return writer;
  }

  /** How many writers there are. */
  public int writers() {
    return writers.size();
  }

  /** Waits until what was written can be read. */
  public void awaitDurable() {
    writers.forEach(TableWriter::awaitDurable);
  }

  /** Deletes what was written by all writers but the first ones. */
  public void discardFrom(int first) {
    List<TableWriter> later = writers.subList(first, writers.size());
    later.forEach(TableWriter::discard);
    later.clear();
  }

  /** Deletes what was written. */
  public void discard() {
    writers.forEach(TableWriter::discard);
  }
}
