package org.ysteron.internal.read;

import java.time.Clock;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import org.ysteron.expr.Condition;
import org.ysteron.internal.file.FooterCache;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.work.Watch;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.ObjectStore;

/** What reading needs of a lake. */
public record ReadContext(
    ObjectStore store,
    PageStore pages,
    FooterCache footers,
    Workers workers,
    Watch watch,
    Clock clock) {

  /** What CURRENT_TIMESTAMP is for what begins now. */
  public Instant now() {
    return clock.instant().truncatedTo(ChronoUnit.MICROS);
  }

  /** A condition with CURRENT_TIMESTAMP as a literal. */
  public Condition fixed(Condition condition) {
    return condition.at(now());
  }
}
