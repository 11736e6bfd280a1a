package org.ysteron.internal.column;

import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.apache.parquet.schema.ColumnOrder;
import org.apache.parquet.schema.LogicalTypeAnnotation;
import org.apache.parquet.schema.LogicalTypeAnnotation.TimeUnit;
import org.apache.parquet.schema.MessageType;
import org.apache.parquet.schema.PrimitiveType;
import org.apache.parquet.schema.PrimitiveType.PrimitiveTypeName;
import org.apache.parquet.schema.Type.Repetition;
import org.apache.parquet.schema.Types;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Widening;

/**
 * Schemas as Parquet has them: a field id on every column, lists and maps in the three-level form
 * of the Parquet format's specification (LogicalTypes.md).
 */
public final class ParquetTypes {
  private static final int WIDE_BYTES = 16;

  private ParquetTypes() {}

  public static MessageType message(Schema schema) {
    List<org.apache.parquet.schema.Type> columns = new ArrayList<>();
    schema.columns().forEach(field -> columns.add(type(field, field.name())));
    return new MessageType("row", columns);
  }

  static org.apache.parquet.schema.Type type(Field field, String name) {
    Repetition repetition = field.required() ? Repetition.REQUIRED : Repetition.OPTIONAL;
    Type type = field.type();
    if (type instanceof Type.ListOf list) {
      return Types.buildGroup(repetition)
          .as(LogicalTypeAnnotation.listType())
          .addField(Types.repeatedGroup().addField(type(list.element(), "element")).named("list"))
          .id(field.id())
          .named(name);
    }
    if (type instanceof Type.MapOf map) {
      return Types.buildGroup(repetition)
          .as(LogicalTypeAnnotation.mapType())
          .addField(
              Types.repeatedGroup()
                  .addField(type(map.key(), "key"))
                  .addField(type(map.value(), "value"))
                  .named("key_value"))
          .id(field.id())
          .named(name);
    }
    if (type instanceof Type.Struct struct) {
      Types.GroupBuilder<org.apache.parquet.schema.GroupType> group = Types.buildGroup(repetition);
      struct.fields().forEach(inner -> group.addField(type(inner, inner.name())));
      return group.id(field.id()).named(name);
    }
    return primitive(type, repetition, field.id(), name);
  }

  private static org.apache.parquet.schema.Type primitive(
      Type type, Repetition repetition, int id, String name) {
    if (type instanceof Type.Decimal decimal) {
      LogicalTypeAnnotation logical =
          LogicalTypeAnnotation.decimalType(decimal.scale(), decimal.precision());
      return decimal.isShort()
          ? Types.primitive(PrimitiveTypeName.INT64, repetition).as(logical).id(id).named(name)
          : Types.primitive(PrimitiveTypeName.FIXED_LEN_BYTE_ARRAY, repetition)
              .length(WIDE_BYTES)
              .as(logical)
              .id(id)
              .named(name);
    }
    if (type instanceof Type.Text) {
      return Types.primitive(PrimitiveTypeName.BINARY, repetition)
          .as(LogicalTypeAnnotation.stringType())
          .id(id)
          .named(name);
    }
    return switch ((Type.Simple) type) {
      case BOOLEAN -> plain(PrimitiveTypeName.BOOLEAN, repetition, id, name);
      case INTEGER -> plain(PrimitiveTypeName.INT32, repetition, id, name);
      case BIGINT -> plain(PrimitiveTypeName.INT64, repetition, id, name);
      case REAL -> floating(PrimitiveTypeName.FLOAT, repetition, id, name);
      case DOUBLE -> floating(PrimitiveTypeName.DOUBLE, repetition, id, name);
      case BINARY -> plain(PrimitiveTypeName.BINARY, repetition, id, name);
      case DATE ->
          Types.primitive(PrimitiveTypeName.INT32, repetition)
              .as(LogicalTypeAnnotation.dateType())
              .id(id)
              .named(name);
      case TIME ->
          Types.primitive(PrimitiveTypeName.INT64, repetition)
              .as(LogicalTypeAnnotation.timeType(false, TimeUnit.MICROS))
              .id(id)
              .named(name);
      case TIMESTAMP, INSTANT ->
          Types.primitive(PrimitiveTypeName.INT64, repetition)
              .as(LogicalTypeAnnotation.timestampType(type == Type.Simple.INSTANT, TimeUnit.MICROS))
              .id(id)
              .named(name);
      case UUID ->
          Types.primitive(PrimitiveTypeName.FIXED_LEN_BYTE_ARRAY, repetition)
              .length(WIDE_BYTES)
              .as(LogicalTypeAnnotation.uuidType())
              .id(id)
              .named(name);
      case JSON ->
          Types.primitive(PrimitiveTypeName.BINARY, repetition)
              .as(LogicalTypeAnnotation.jsonType())
              .id(id)
              .named(name);
    };
  }

  /** The type of a leaf as its file has it; a limit of text is not in the file. */
  static Type leaf(PrimitiveType leaf) {
    LogicalTypeAnnotation logical = leaf.getLogicalTypeAnnotation();
    if (logical instanceof LogicalTypeAnnotation.DecimalLogicalTypeAnnotation decimal) {
      return new Type.Decimal(decimal.getPrecision(), decimal.getScale());
    }
    boolean utc =
        logical instanceof LogicalTypeAnnotation.TimestampLogicalTypeAnnotation time
            && time.isAdjustedToUTC();
    return switch (leaf.getPrimitiveTypeName()) {
      case BOOLEAN -> Type.Simple.BOOLEAN;
      case INT32 ->
          logical instanceof LogicalTypeAnnotation.DateLogicalTypeAnnotation
              ? Type.Simple.DATE
              : Type.Simple.INTEGER;
      case INT64 ->
          logical instanceof LogicalTypeAnnotation.TimeLogicalTypeAnnotation
              ? Type.Simple.TIME
              : logical instanceof LogicalTypeAnnotation.TimestampLogicalTypeAnnotation
                  ? utc ? Type.Simple.INSTANT : Type.Simple.TIMESTAMP
                  : Type.Simple.BIGINT;
      case FLOAT -> Type.Simple.REAL;
      case DOUBLE -> Type.Simple.DOUBLE;
      case BINARY, FIXED_LEN_BYTE_ARRAY, INT96 ->
          logical instanceof LogicalTypeAnnotation.StringLogicalTypeAnnotation
              ? org.ysteron.data.Types.text()
              : logical instanceof LogicalTypeAnnotation.JsonLogicalTypeAnnotation
                  ? Type.Simple.JSON
                  : logical instanceof LogicalTypeAnnotation.UUIDLogicalTypeAnnotation
                      ? Type.Simple.UUID
                      : Type.Simple.BINARY;
    };
  }

  /** The type by which a leaf is decoded: the wanted one, unless the file holds it otherwise. */
  public static Type held(PrimitiveType leaf, Type wanted) {
    Type own = leaf(leaf);
    return Widening.isHeldAlike(own, wanted) ? wanted : own;
  }

  /** The library's own order is younger than many readers, which refuse the whole file for it. */
  private static org.apache.parquet.schema.Type floating(
      PrimitiveTypeName type, Repetition repetition, int id, String name) {
    return Types.primitive(type, repetition)
        .columnOrder(ColumnOrder.typeDefined())
        .id(id)
        .named(name);
  }

  private static org.apache.parquet.schema.Type plain(
      PrimitiveTypeName physical, Repetition repetition, int id, String name) {
    return Types.primitive(physical, repetition).id(id).named(name);
  }
}
