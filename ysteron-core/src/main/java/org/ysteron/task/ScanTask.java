package org.ysteron.task;

import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.FooterCache;
import org.ysteron.internal.file.RowSpan;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.remote.ScanForm;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.store.ObjectStore;

/**
 * A part of a scan: one data file, or some of its rows, with everything needed to read it from its
 * store. Its byte form can be sent to another process, which does not need to open the lake.
 * Immutable, thread-safe.
 */
public final class ScanTask {
  private final ScanForm form;

  private ScanTask(ScanForm form) {
    this.form = form;
  }

  /**
   * Reads a task from its byte form.
   *
   * @throws InvalidInputException when the bytes are not a complete one
   */
  public static ScanTask of(byte[] bytes) {
    return new ScanTask(ScanForm.of(bytes));
  }

  /** The byte form, for {@link #of}. */
  public byte[] toBytes() {
    return form.toBytes();
  }

  ScanForm form() {
    return form;
  }

  /** The table's id. */
  public UUID table() {
    return form.file().table();
  }

  /** The data file's number in its table. */
  public long fileNumber() {
    return form.file().number();
  }

  /** The name of the data file in the store. */
  public String name() {
    return form.file().file().name();
  }

  /** The number of rows it reads, including masked ones. */
  public long rows() {
    return form.file().span().rows();
  }

  /** The columns of its rows. */
  public Schema schema() {
    return form.columns().isEmpty()
        ? form.file().schema()
        : form.file().schema().select(form.columns());
  }

  /**
   * Splits this task into one part per row group, so that no page is decoded twice; reads the
   * file's footer.
   */
  public List<ScanTask> byRowGroup(ObjectStore store) {
    RowSpan all = form.file().span();
    List<RowSpan> groups =
        DataFileReader.groups(store, form.file().file(), form.file().table(), new FooterCache());
    return all.common(groups).stream().map(group -> new ScanTask(form.among(group))).toList();
  }

  /** Splits this task into parts of about the same number of rows, for a large file. */
  public List<ScanTask> split(int parts) {
    if (parts < 1) {
      throw new InvalidInputException("A task is split into at least 1 part, not " + parts + ".");
    }
    List<ScanTask> tasks = new ArrayList<>();
    for (int i = 0; i < parts; i++) {
      long first = form.file().span().from();
      RowSpan some = new RowSpan(first + rows() * i / parts, first + rows() * (i + 1) / parts);
      if (some.rows() > 0) {
        tasks.add(new ScanTask(form.among(some)));
      }
    }
    return tasks;
  }

  /** Reads the matching rows from a store. */
  public Results<LocatedBatch> read(ObjectStore store) {
    Schema wanted = schema();
    int shown = wanted.columns().size();
    List<Field> fields = new ArrayList<>(wanted.columns());
    fields.add(HiddenColumns.serial(wanted));
    Schema located = Schema.stored(fields, List.of(), form.file().schema().lastId());
    Filter filter = Filter.bind(form.condition().simplified(), form.file().schema());
    FileScan scan = new FileScan(store, new FooterCache(), form.file(), located, filter, null);
    return new Results<>(
        () -> scan.next().map(batch -> located(batch, shown, wanted.struct(), scan)).orElse(null),
        scan::close);
  }

  private LocatedBatch located(Batch batch, int shown, Type.Struct struct, FileScan scan) {
    Vector told = batch.vectors().get(shown);
    int[] positions = new int[batch.size()];
    long[] serials = new long[batch.size()];
    for (int i = 0; i < positions.length; i++) {
      positions[i] = scan.position(i);
      serials[i] = told.isNull(i) ? form.firstSerial() + positions[i] : (Long) told.present(i);
    }
    Batch rows = new Batch(struct, batch.size(), batch.vectors().subList(0, shown));
    return new LocatedBatch(rows, positions, serials);
  }
}
