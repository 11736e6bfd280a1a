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
 * A part of a scan: one data file, or some of its rows, with all that reading it takes beside the
 * store it is in. It has a byte form, so that it can be run by a process that knows no lake.
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
   * @throws InvalidInputException when the bytes are none
   */
  public static ScanTask of(byte[] bytes) {
    return new ScanTask(ScanForm.of(bytes));
  }

  /** As bytes, which {@link #of} reads. */
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

  /** How many rows it looks at, masked ones included. */
  public long rows() {
    return form.file().span().rows();
  }

  /** The columns that its rows have. */
  public Schema schema() {
    return form.columns().isEmpty()
        ? form.file().schema()
        : form.file().schema().select(form.columns());
  }

  /**
   * This task in parts of one row group of its file each, so that no page is decoded twice; the
   * file's footer is read for it.
   */
  public List<ScanTask> byRowGroup(ObjectStore store) {
    RowSpan all = form.file().span();
    List<RowSpan> groups =
        DataFileReader.groups(store, form.file().file(), form.file().table(), new FooterCache());
    return all.common(groups).stream().map(group -> new ScanTask(form.among(group))).toList();
  }

  /** This task in parts of about as many rows, for a file that is large. */
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

  /** The rows that count and pass, read from a store. */
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
