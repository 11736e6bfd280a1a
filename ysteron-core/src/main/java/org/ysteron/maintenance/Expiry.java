package org.ysteron.maintenance;

import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Retention;

/**
 * Expires old versions, of one table or of all. Rules decide which versions are kept: the rules
 * given here, or those of the table's settings, or those of the lake's settings. Without a rule
 * nothing expires. The newest version and bookmarked versions are always kept. Data files that no
 * kept version uses become free, and a {@link Sweep} deletes them. A dropped table is removed as a
 * whole once no rule keeps any of its versions; it cannot be brought back then. Immutable: each
 * method returns another one.
 */
public interface Expiry {

  /** By these rules, whatever settings say. */
  @CheckReturnValue
  Expiry keeping(Retention kept);

  /**
   * Lets versions go, in a commit for each table of which some do, or in several when there are
   * more than 50,000 of them.
   */
  ExpiryReport run();

  /** Exactly what {@link #run} would let go now. */
  ExpiryReport dryRun();
}
