package org.ysteron.report;

import java.time.Instant;
import java.util.UUID;

/**
 * Who made a commit, when and why.
 *
 * @param entry the ledger entry's number
 * @param ordinal counts the commits over the ledger, those of one entry each for itself
 * @param commitId the commit's own id, by which it is known again
 * @param time when, in whole microseconds; never before the parent's time
 * @param author who
 * @param program which program
 * @param note a note for people; may be empty
 * @param statement the statement that caused it; may be empty
 */
public record CommitStamp(
    long entry,
    long ordinal,
    UUID commitId,
    Instant time,
    String author,
    String program,
    String note,
    String statement) {

  /** Who, when and why, for messages: {@code ada (2026-03-01T12:00:00Z): the note}. */
  public String who() {
    return author + " (" + time + ")" + (note.isEmpty() ? "" : ": " + note);
  }
}
