package org.ysteron.report;

import java.time.Instant;
import java.util.UUID;

/**
 * Who made a commit, when and why.
 *
 * @param entry the ledger entry's number
 * @param ordinal counts all commits of the ledger; an entry can have several
 * @param commitId the commit's unique ID
 * @param time when, in microseconds; later than the parent's time
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

  /** Author, time and note, for messages: {@code ada (2026-03-01T12:00:00Z): the note}. */
  public String who() {
    return author + " (" + time + ")" + (note.isEmpty() ? "" : ": " + note);
  }
}
