package org.ysteron.table;

import java.util.UUID;
import org.ysteron.tree.ByteIn;
import org.ysteron.tree.ByteOut;
import org.ysteron.tree.PageHome;
import org.ysteron.tree.PageRef;

/**
 * What the lake page knows of a table.
 *
 * @param id the table
 * @param name its name
 * @param version its newest version
 * @param dropped whether it was dropped and can be brought back
 * @param totals what it holds
 * @param page its table page
 */
public record TableListing(
    UUID id,
    String name,
    long version,
    boolean dropped,
    HistoryRecord.Totals totals,
    PageRef page) {

  static TableListing of(TablePage table, boolean dropped, PageRef page) {
    return new TableListing(
        table.id(), table.name(), table.version(), dropped, table.record().totals(), page);
  }

  /** Pages of tables by id. */
  static final class Format extends RecordFormat<TableListing> {
    static final Format INSTANCE = new Format();

    private Format() {
      super(3);
    }

    @Override
    void write(TableListing value, ByteOut out, PageHome home) {
      writeUuid(out, value.id);
      out.text(value.name).varint(value.version).u8(value.dropped ? 1 : 0);
      out.varint(value.totals.files()).varint(value.totals.rows()).varint(value.totals.bytes());
      value.page.write(out, home);
    }

    @Override
    TableListing read(ByteIn in, PageHome home) {
      return new TableListing(
          readUuid(in),
          in.text(),
          in.varint(),
          in.u8() == 1,
          new HistoryRecord.Totals(in.varint(), in.varint(), in.varint()),
          PageRef.read(in, home));
    }

    @Override
    long time(TableListing value) {
      return 0;
    }
  }

  /** Pages of table ids by name. */
  static final class NameFormat extends RecordFormat<UUID> {
    static final NameFormat INSTANCE = new NameFormat();

    private NameFormat() {
      super(4);
    }

    @Override
    void write(UUID value, ByteOut out, PageHome home) {
      writeUuid(out, value);
    }

    @Override
    UUID read(ByteIn in, PageHome home) {
      return readUuid(in);
    }

    @Override
    long time(UUID value) {
      return 0;
    }
  }
}
