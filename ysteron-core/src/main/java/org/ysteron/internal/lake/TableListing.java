package org.ysteron.internal.lake;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.table.Unread;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.table.WriterRecord;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.Reach;
import org.ysteron.report.TableInfo;
import org.ysteron.report.TableVersion;

/**
 * What the lake page knows of a table.
 *
 * @param id the table
 * @param name its name
 * @param version its newest version
 * @param dropped whether it was dropped and can be brought back
 * @param totals what it holds
 * @param numbers what it gives out next, for all lines of it
 * @param page its version page
 * @param head its head
 * @param pagesFrom no object of pages of the table with a lesser start is referred to
 * @param unread what a later program says of it
 */
public record TableListing(
    UUID id,
    String name,
    long version,
    boolean dropped,
    TableVersion.Totals totals,
    TableNumbers numbers,
    PageRef page,
    PageRef head,
    long pagesFrom,
    Unread unread) {
  private static final int DROPPED = 1;

  /**
   * The table with a new version, whose head goes into a batch, too.
   *
   * @param before the table so far; empty for a new one
   * @param numbers what it gives out next
   * @param page where the version page is
   * @param step what a named writer has done with it
   */
  public static TableListing next(
      Optional<TableListing> before,
      VersionPage table,
      TableNumbers numbers,
      boolean dropped,
      PageRef page,
      Optional<WriterRecord> step,
      PageStore pages,
      PageBatch batch) {
    TableHead head = TableHead.create(table.id());
    if (before.isPresent()) {
      PageRef old = before.get().page;
      HistoryRecord superseded = VersionPage.read(old, pages).record().at(old);
      head = TableHead.read(before.get().head, pages).with(superseded, pages, batch);
    }
    if (step.isPresent()) {
      head = head.with(step.get(), pages, batch);
    }
    return new TableListing(
        table.id(),
        table.name(),
        table.version(),
        dropped,
        table.record().totals(),
        numbers,
        page,
        head.write(batch),
        before.map(TableListing::pagesFrom).orElse(0L),
        before.map(TableListing::unread).orElse(Unread.NOTHING));
  }

  /** What a caller is told of it. */
  public TableInfo told() {
    return new TableInfo(id, name, version, dropped, totals);
  }

  /** The table, the same, whose pages are elsewhere or whose past is shorter. */
  public TableListing with(PageRef otherPage, PageRef otherHead) {
    return new TableListing(
        id, name, version, dropped, totals, numbers, otherPage, otherHead, pagesFrom, unread);
  }

  /**
   * A record in the place of the newest version's, when that is lost with its page.
   *
   * @param before when at the earliest it was made
   */
  public HistoryRecord lost(Instant before) {
    return HistoryRecord.lost(version, before, totals);
  }

  /** The table with a version in the place of one that is lost. */
  public TableListing mended(VersionPage made, PageRef otherPage, PageRef otherHead) {
    return new TableListing(
        id,
        name,
        made.version(),
        dropped,
        made.record().totals(),
        numbers,
        otherPage,
        otherHead,
        pagesFrom,
        unread);
  }

  /** The table, the same, when it holds less than it did. */
  public TableListing withTotals(TableVersion.Totals less) {
    return new TableListing(
        id, name, version, dropped, less, numbers, page, head, pagesFrom, unread);
  }

  /** The table, the same, when it refers to no object of pages with a start below a number. */
  public TableListing withPagesFrom(long start) {
    return new TableListing(id, name, version, dropped, totals, numbers, page, head, start, unread);
  }

  /** The table at an older version, which had some name then. */
  TableListing at(String oldName, HistoryRecord then) {
    return new TableListing(
        id,
        oldName,
        then.version(),
        false,
        then.totals(),
        numbers,
        then.page().orElse(page),
        head,
        pagesFrom,
        unread);
  }

  /** The table as it was when it had been dropped. */
  TableListing droppedAt(HistoryRecord then) {
    TableListing old = at(name, then);
    return new TableListing(
        id, name, old.version, true, old.totals, numbers, old.page, head, pagesFrom, unread);
  }

  /** Pages of tables by id. */
  static final class Format extends RecordFormat<TableListing> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(3);
    }

    @Override
    protected void write(TableListing value, ByteOut out, PagePlace place) {
      writeUuid(out, value.id);
      out.text(value.name).varint(value.version).u8(value.dropped ? DROPPED : 0);
      out.varint(value.totals.files()).varint(value.totals.rows()).varint(value.totals.bytes());
      value.numbers.write(out);
      value.page.write(out, place);
      value.head.write(out, place);
      if (value.pagesFrom > 0 || !value.unread.isNothing()) {
        out.varint(value.pagesFrom);
      }
      value.unread.write(out);
    }

    @Override
    protected TableListing read(ByteIn in, PagePlace place) {
      return new TableListing(
          readUuid(in),
          in.text(),
          in.varint(),
          (in.u8() & DROPPED) != 0,
          new TableVersion.Totals(in.varint(), in.varint(), in.varint()),
          TableNumbers.read(in),
          PageRef.read(in, place),
          PageRef.read(in, place),
          in.remaining() == 0 ? 0 : in.varint(),
          Unread.rest(in));
    }

    @Override
    protected List<PageRef> followed(TableListing value) {
      return List.of(value.page, value.head);
    }

    @Override
    public TableListing moved(TableListing value, UnaryOperator<PageRef> change) {
      return value.with(change.apply(value.page), change.apply(value.head));
    }

    /** Which pages objects a table keeps is its own affair. */
    @Override
    protected Reach passedOn(Reach reach) {
      return reach.ofEntriesOnly();
    }

    @Override
    public long time(TableListing value) {
      return 0;
    }
  }

  /**
   * A table that a name stands for.
   *
   * @param id the table
   * @param version its version then
   * @param unread what a later program says of it
   */
  record Named(UUID id, long version, Unread unread) {}

  /** Pages of tables by name. */
  static final class NameFormat extends RecordFormat<Named> {
    static final NameFormat INSTANCE = new NameFormat();

    private NameFormat() {
      super(4);
    }

    @Override
    protected void write(Named value, ByteOut out, PagePlace place) {
      writeUuid(out, value.id);
      out.varint(value.version);
      value.unread.write(out);
    }

    @Override
    protected Named read(ByteIn in, PagePlace place) {
      return new Named(readUuid(in), in.varint(), Unread.rest(in));
    }

    @Override
    public long time(Named value) {
      return 0;
    }
  }
}
