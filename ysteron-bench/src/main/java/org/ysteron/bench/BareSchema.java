package org.ysteron.bench;

import java.util.ArrayList;
import java.util.List;
import org.apache.parquet.schema.LogicalTypeAnnotation;
import org.apache.parquet.schema.MessageType;
import org.apache.parquet.schema.PrimitiveType.PrimitiveTypeName;
import org.apache.parquet.schema.Types;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;

/** The Parquet schema of required flat columns. */
final class BareSchema {
  private BareSchema() {}

  static MessageType of(Schema schema) {
    List<org.apache.parquet.schema.Type> columns = new ArrayList<>();
    for (Field field : schema.columns()) {
      columns.add(
          switch (field.type().physical()) {
            case INT -> Types.required(PrimitiveTypeName.INT32).id(field.id()).named(field.name());
            case LONG -> number(field);
            default ->
                Types.required(PrimitiveTypeName.BINARY)
                    .as(LogicalTypeAnnotation.stringType())
                    .id(field.id())
                    .named(field.name());
          });
    }
    return new MessageType("row", columns);
  }

  private static org.apache.parquet.schema.Type number(Field field) {
    if (field.type() instanceof Type.Decimal decimal) {
      return Types.required(PrimitiveTypeName.INT64)
          .as(LogicalTypeAnnotation.decimalType(decimal.scale(), decimal.precision()))
          .id(field.id())
          .named(field.name());
    }
    return Types.required(PrimitiveTypeName.INT64).id(field.id()).named(field.name());
  }
}
