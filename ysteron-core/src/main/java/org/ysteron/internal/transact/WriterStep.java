package org.ysteron.internal.transact;

import java.util.Optional;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.write.RowDigest;

/**
 * What a commit does in the name of a named writer.
 *
 * @param writer the name
 * @param session the session it belongs to; 0 opens a new one
 * @param sequence the sequence number it applies
 * @param digest what it applies, to tell a repetition from a mistake
 */
public record WriterStep(String writer, long session, long sequence, String digest) {
  private static final long RESTARTED = -1;

  /** Opens a session; older ones may not write from then on. */
  public static WriterStep open(String writer) {
    return new WriterStep(writer, 0, -1, "");
  }

  /** Opens a session that goes on from a number, as if nothing from there on had been applied. */
  public static WriterStep restart(String writer, long next) {
    return new WriterStep(writer, RESTARTED, next - 1, "");
  }

  WriterRecord after(Optional<WriterRecord> before, String table) {
    WriterRecord record = before.orElse(WriterRecord.unknown(writer));
    if (session == 0) {
      return record.opened();
    }
    if (session == RESTARTED) {
      return record.opened().applied(sequence, "");
    }
    check(record, table);
    if (isApplied(record)) {
      throw new AppliedBefore();
    }
    return record.applied(sequence, digest);
  }

  /** Refuses a session that was superseded, and other rows under the last number. */
  public void check(WriterRecord record, String table) {
    checkSession(record, table);
    if (record.sequence() == sequence && RowDigest.differ(record.digest(), digest)) {
      throw new InvalidInputException(
          "Writer %s of table %s has already applied number %d with other rows. Nothing was changed; use the next number, %d, for new rows."
              .formatted(writer, table, sequence, sequence + 1));
    }
  }

  /** Refuses a session that was superseded. */
  public void checkSession(WriterRecord record, String table) {
    if (record.session() != session) {
      throw new ConflictException(
          ConflictException.Kind.WRITER_FENCED,
          table,
          "Writer %s of table %s was opened again elsewhere as session %d, which ended session %d. Nothing was changed; make sure that only one of them runs."
              .formatted(writer, table, record.session(), session));
    }
  }

  /** The same step with what it applies. */
  public WriterStep applying(String ofRows) {
    return new WriterStep(writer, session, sequence, ofRows);
  }

  /** Whether this number, or a later one, was applied before. */
  public boolean isApplied(WriterRecord record) {
    return sequence <= record.sequence();
  }
}
