package org.ysteron;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.statement.CheckReturnValue;
import org.ysteron.internal.upkeep.ExpiryRun;
import org.ysteron.option.Retention;
import org.ysteron.report.ExpiryReport;

/**
 * Lets old versions go, of one table or of all. Which are kept is said by rules: those given, else
 * the table's settings, else the lake's; without any rule nothing goes. The newest version stays,
 * and what a bookmark names. Data files that no kept version has are free then; a {@link Sweep}
 * deletes them. A dropped table goes as a whole once no rule keeps any version of it, and can then
 * not be brought back. Immutable.
 */
public final class Expiry {
  private final LakeCore core;
  private final CommitNote note;
  private final Optional<UUID> table;
  private final Optional<Retention> rules;

  Expiry(LakeCore core, CommitNote note, Optional<UUID> table, Optional<Retention> rules) {
    this.core = core;
    this.note = note;
    this.table = table;
    this.rules = rules;
  }

  /** By these rules, whatever settings say. */
  @CheckReturnValue
  public Expiry keeping(Retention kept) {
    return new Expiry(core, note, table, Optional.of(kept));
  }

  /** Lets versions go, in a commit for each table of which some do. */
  public ExpiryReport run() {
    ExpiryRun run = new ExpiryRun(core, note, rules);
    return table.isEmpty() ? run.runAll() : run.run(listing());
  }

  /** Exactly what {@link #run} would let go now. */
  public ExpiryReport rehearse() {
    ExpiryRun run = new ExpiryRun(core, note, rules);
    return table.isEmpty() ? run.rehearseAll() : run.rehearse(listing());
  }

  private TableListing listing() {
    return core.refresh()
        .page()
        .table(table.orElseThrow(), core.pages())
        .orElseThrow(() -> new NotFoundException("The table is not there any more."));
  }
}
