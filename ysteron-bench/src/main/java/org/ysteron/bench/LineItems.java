package org.ysteron.bench;

import io.trino.tpch.LineItem;
import io.trino.tpch.LineItemGenerator;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Consumer;
import org.ysteron.Append;
import org.ysteron.Lake;
import org.ysteron.Table;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.VectorBuilder;
import org.ysteron.option.TableSettings;

/** The lineitem rows of TPC-H (tpc.org), some six million of 16 columns at scale 1, as batches. */
final class LineItems {
  private static final int BATCH_ROWS = 8192;

  /** The scale of benchmarks of six million rows. */
  static final double SCALE = Size.IS_TINY ? 0.01 : 1;

  private LineItems() {}

  static Schema schema() {
    Type money = Types.decimal(12, 2);
    return Schema.of(
        required("orderkey", Types.BIGINT),
        required("partkey", Types.BIGINT),
        required("suppkey", Types.BIGINT),
        required("linenumber", Types.INTEGER),
        required("quantity", money),
        required("extendedprice", money),
        required("discount", money),
        required("tax", money),
        required("returnflag", Types.text(1)),
        required("linestatus", Types.text(1)),
        required("shipdate", Types.DATE),
        required("commitdate", Types.DATE),
        required("receiptdate", Types.DATE),
        required("shipinstruct", Types.text(25)),
        required("shipmode", Types.text(10)),
        required("comment", Types.text(44)));
  }

  private static Field required(String name, Type type) {
    return Field.of(name, type).notNull();
  }

  /** All rows of a scale, in order of the order key. */
  static List<Batch> batches(double scale) {
    List<Batch> batches = new ArrayList<>();
    forEach(scale, batches::add);
    return batches;
  }

  /** All rows of a scale, in order of the order key, in batches of so many. */
  static List<Batch> batches(double scale, int rows) {
    List<Batch> batches = new ArrayList<>();
    forEach(scale, rows, batches::add);
    return batches;
  }

  /** Makes all rows of a scale, in order of the order key, a batch at a time. */
  static void forEach(double scale, Consumer<Batch> target) {
    forEach(scale, BATCH_ROWS, target);
  }

  private static void forEach(double scale, int rows, Consumer<Batch> target) {
    Schema schema = schema();
    List<VectorBuilder> builders =
        schema.columns().stream().map(column -> new VectorBuilder(column.type())).toList();
    for (LineItem item : new LineItemGenerator(scale, 1, 1)) {
      add(builders, item);
      if (builders.get(0).size() == rows) {
        target.accept(take(schema, builders));
      }
    }
    if (builders.get(0).size() > 0) {
      target.accept(take(schema, builders));
    }
  }

  /** A table of all rows of scale 1, some six million, in one file of many row groups. */
  static Table inOneFile(Lake lake) {
    return table(lake, "bench.lineitem", 1L << 40);
  }

  /** A table of all rows of scale 1, some six million, in files of some size. */
  static Table table(Lake lake, String name, long fileBytes) {
    Table table =
        lake.createTable(
            name, schema(), TableSettings.DEFAULTS.with(TableSettings.FILE_BYTES, fileBytes));
    try (Append append = table.append()) {
      forEach(SCALE, append::addBatch);
      append.commit();
    }
    return table;
  }

  private static Batch take(Schema schema, List<VectorBuilder> builders) {
    int size = builders.get(0).size();
    return new Batch(schema.struct(), size, builders.stream().map(VectorBuilder::build).toList());
  }

  private static void add(List<VectorBuilder> to, LineItem item) {
    to.get(0).addLong(item.getOrderKey());
    to.get(1).addLong(item.getPartKey());
    to.get(2).addLong(item.getSupplierKey());
    to.get(3).addInt(item.getLineNumber());
    to.get(4).addLong(item.getQuantity() * 100L);
    to.get(5).addLong(item.getExtendedPriceInCents());
    to.get(6).addLong(item.getDiscountPercent());
    to.get(7).addLong(item.getTaxPercent());
    to.get(8).add(item.getReturnFlag());
    to.get(9).add(item.getStatus());
    to.get(10).addInt(item.getShipDate());
    to.get(11).addInt(item.getCommitDate());
    to.get(12).addInt(item.getReceiptDate());
    to.get(13).add(item.getShipInstructions());
    to.get(14).add(item.getShipMode());
    to.get(15).add(item.getComment());
  }
}
