package org.ysteron.internal.file;

import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ParquetProperties;
import org.apache.parquet.column.values.ValuesWriter;
import org.apache.parquet.column.values.delta.DeltaBinaryPackingValuesWriterForLong;
import org.apache.parquet.column.values.factory.DefaultValuesWriterFactory;
import org.apache.parquet.column.values.factory.ValuesWriterFactory;
import org.apache.parquet.schema.Type;
import org.ysteron.internal.rows.HiddenColumns;

/**
 * How columns are encoded: as the Parquet library does, but for serials, which most often count up
 * and take next to nothing as differences.
 */
final class Encodings implements ValuesWriterFactory {
  private final ValuesWriterFactory standard = new DefaultValuesWriterFactory();
  private ParquetProperties properties;

  @Override
  public void initialize(ParquetProperties of) {
    properties = of;
    standard.initialize(of);
  }

  @Override
  public ValuesWriter newValuesWriter(ColumnDescriptor column) {
    Type.ID id = column.getPrimitiveType().getId();
    if (id == null || id.intValue() != HiddenColumns.SERIAL_ID) {
      return standard.newValuesWriter(column);
    }
    return new DeltaBinaryPackingValuesWriterForLong(
        properties.getInitialSlabSize(),
        properties.getPageSizeThreshold(),
        properties.getAllocator());
  }
}
