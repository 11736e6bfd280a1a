package org.ysteron.maintenance;

import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Retention;

/**
 * Lets old versions go, of one table or of all. Which are kept is said by rules: those given, else
 * the table's settings, else the lake's; without any rule nothing goes. The newest version stays,
 * and what a bookmark names. Data files that no kept version has are free then; a {@link Sweep}
 * deletes them. A dropped table goes as a whole once no rule keeps any version of it, and can then
 * not be brought back. Immutable: each method returns another one.
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
