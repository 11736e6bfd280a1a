package org.ysteron;

import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Batch;
import org.ysteron.data.Row;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.rows.RowForms;
import org.ysteron.internal.table.StagedFile;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.text.Limits;
import org.ysteron.internal.transact.AppliedBefore;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.Retries;
import org.ysteron.internal.transact.TableChange;
import org.ysteron.internal.transact.WriterRows;
import org.ysteron.internal.transact.WriterStep;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.Isolation;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.Committed;
import org.ysteron.report.Grown;
import org.ysteron.report.SkippedRows;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.report.WriteResult;

/**
 * A writer with a name, whose appends are applied exactly once. Each append has a sequence number,
 * higher than the one before; the table stores the last number that was applied. After a crash, or
 * if the outcome of an append is unknown, make the same append again, or ask the table with {@link
 * #lastApplied()}: a number that was applied is not applied again.
 *
 * <p>Opening a writer ends all its earlier sessions, so that an old process that is still alive can
 * write no more. For one thread.
 *
 * <pre>{@code
 * NamedWriter writer = readings.openWriter("logger-7");
 * for (long number = writer.lastApplied() + 1; ...; number++) {
 *   writer.append(number, rows -> rows.add(...));
 * }
 * }</pre>
 */
public final class NamedWriter {
  private final LakeCore core;
  private final CommitNote note;
  private final UUID tableId;
  private final String table;
  private final String name;
  private final long session;
  private final Schema opened;
  private boolean skipsRejected;
  private SkippedRows skipped = SkippedRows.NONE;

  private NamedWriter(
      LakeCore core,
      CommitNote note,
      UUID tableId,
      String table,
      String name,
      long session,
      Schema opened) {
    this.opened = opened;
    this.core = core;
    this.note = note;
    this.tableId = tableId;
    this.table = table;
    this.name = name;
    this.session = session;
  }

  /**
   * Gives the rows of an append; the same ones whenever it is asked under the same number.
   *
   * <p>A row that is rejected ends the append, whatever the caller does about it, unless {@link
   * #skippingRejected()} was asked for. {@link RowSink#add} takes the values of the columns as they
   * are, or as they were when the writer was opened, which leaves columns added since with their
   * defaults.
   */
  @FunctionalInterface
  public interface Rows {
    void to(RowSink target);
  }

  static NamedWriter open(LakeCore core, CommitNote note, UUID tableId, String table, String name) {
    Limits.text(name, Limits.NAME, "name of a writer");
    if (name.isBlank()) {
      throw new InvalidInputException("A named writer needs a name.");
    }
    return Retries.changing(
        core,
        Isolation.SNAPSHOT,
        set -> {
          TableChange change = set.table(tableId, table);
          change.step(WriterStep.open(name));
          set.commit(note);
          return new NamedWriter(
              core,
              note,
              tableId,
              table,
              name,
              change.stepped().session(),
              change.draft().schema());
        });
  }

  private Optional<WriterRecord> newest() {
    return core.refresh()
        .page()
        .table(tableId, core.pages())
        .map(listing -> TableHead.read(listing.head(), core.pages()))
        .flatMap(head -> head.writer(name, core.pages()));
  }

  public String name() {
    return name;
  }

  /** The number of this session, one higher than that of the one before. */
  public long session() {
    return session;
  }

  /** The last sequence number that the table has applied, or -1. */
  public long lastApplied() {
    return newest().map(WriterRecord::sequence).orElse(-1L);
  }

  /**
   * From now on, rows whose values do not fit the table when they are given or when they are
   * committed are left out, and the number counts as applied; else the whole append is refused.
   */
  public NamedWriter skippingRejected() {
    skipsRejected = true;
    return this;
  }

  /** The rows that the last append has left out. */
  public SkippedRows skipped() {
    return skipped;
  }

  /**
   * Appends rows, exactly once.
   *
   * @param sequence higher than those before
   * @return the rows and their commit; nothing when the number, or a higher one, was applied before
   * @throws InvalidInputException when the last number applied is this one, with other rows
   * @throws ConflictException when another session of this writer was opened
   * @throws UnknownOutcomeException when the store does not say whether it happened; append it
   *     again
   */
  public WriteResult append(long sequence, Rows rows) {
    if (sequence < 0) {
      throw new InvalidInputException(
          "The sequence number is %d; it must not be negative.".formatted(sequence));
    }
    skipped = SkippedRows.NONE;
    Instant now = core.now();
    try {
      WriteResult result =
          Retries.changing(core, Isolation.SNAPSHOT, set -> append(set, sequence, rows, now));
      skipped = result.skipped();
      return result;
    } catch (AppliedBefore e) {
      return WriteResult.NOTHING;
    }
  }

  private WriteResult append(ChangeSet set, long sequence, Rows rows, Instant now) {
    TableChange change = set.table(tableId, table);
    WriterStep step = new WriterStep(name, session, sequence, "");
    if (isApplied(change, step, rows)) {
      return WriteResult.NOTHING;
    }
    if (skipsRejected) {
      change.setSkipsRejected();
    }
    TableWriter writer = change.writer(now);
    WriterRows given = given(change, rows, writer::add);
    change.append(writer);
    change.step(step.applying(given.digest()));
    Optional<Committed> committed = set.commit(note);
    ChangeReport report =
        StagedFile.inserted(writer.rows(), writer.written())
            .skippingRejected(change.skipped().rows());
    return new WriteResult(report, committed, given.skipped().and(change.skipped()), Grown.NOTHING);
  }

  private WriterRows given(TableChange change, Rows rows, Consumer<Object[]> to) {
    WriterRows given = new WriterRows(table, opened, change.draft().schema(), skipsRejected, to);
    rows.to(new Given(given, change.draft().schema().struct()));
    given.throwFailure();
    return given;
  }

  /** Rows in all forms, each by values or by names. */
  private record Given(WriterRows rows, RowForms forms) implements RowSink {
    Given(WriterRows rows, Type.Struct columns) {
      this(rows, new RowForms(columns));
    }

    @Override
    public RowSink add(@Nullable Object... values) {
      rows.add(values);
      return this;
    }

    @Override
    public RowSink addRow(Row row) {
      rows.add(row);
      return this;
    }

    @Override
    public RowSink addRecord(Record record) {
      return add(forms.values(record));
    }

    @Override
    public RowSink addBatch(Batch batch) {
      batch.rows().forEach(this::addRow);
      return this;
    }

    @Override
    public RowSink addObject(Map<String, @Nullable Object> members) {
      return addRow(forms.row(members));
    }

    @Override
    public RowSink addText(TextRow row) {
      return addRow(forms.row(row));
    }
  }

  /** Whether the state that this started from has the number already. Nothing is written. */
  private boolean isApplied(TableChange change, WriterStep step, Rows rows) {
    Optional<WriterRecord> record = change.writer(name);
    if (record.isEmpty()) {
      return false;
    }
    step.checkSession(record.get(), table);
    if (record.get().sequence() == step.sequence()) {
      step.applying(given(change, rows, row -> {}).digest()).check(record.get(), table);
    }
    return step.isApplied(record.get());
  }
}
