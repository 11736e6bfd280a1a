package org.ysteron.sql.catalog;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.apache.calcite.jdbc.JavaTypeFactoryImpl;
import org.apache.calcite.rel.RelNode;
import org.apache.calcite.rel.type.RelDataType;
import org.apache.calcite.rel.type.RelDataTypeFactory;
import org.apache.calcite.rel.type.RelDataTypeField;
import org.apache.calcite.rel.type.StructKind;
import org.apache.calcite.sql.SqlBasicTypeNameSpec;
import org.apache.calcite.sql.SqlDataTypeSpec;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.apache.calcite.sql.type.SqlTypeFamily;
import org.apache.calcite.sql.type.SqlTypeName;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;

/** Types of the planner and of lakes, each as one of the other. */
public final class RelTypes {
  private static final int MICROSECONDS = 6;

  private RelTypes() {}

  public static RelDataType of(Type type, boolean nullable, RelDataTypeFactory factory) {
    return factory.createTypeWithNullability(of(type, factory), nullable);
  }

  public static RelDataType of(Type.Struct struct, RelDataTypeFactory factory) {
    RelDataTypeFactory.Builder builder = factory.builder().kind(StructKind.FULLY_QUALIFIED);
    struct
        .fields()
        .forEach(field -> builder.add(field.name(), of(field.type(), !field.required(), factory)));
    return builder.build();
  }

  private static RelDataType of(Type type, RelDataTypeFactory factory) {
    if (type instanceof Type.Decimal decimal) {
      return factory.createSqlType(SqlTypeName.DECIMAL, decimal.precision(), decimal.scale());
    }
    if (type instanceof Type.Text text) {
      return text.limit().isEmpty()
          ? factory.createSqlType(SqlTypeName.VARCHAR)
          : factory.createSqlType(SqlTypeName.VARCHAR, text.limit().getAsInt());
    }
    if (type instanceof Type.ListOf list) {
      Field element = list.element();
      return factory.createArrayType(of(element.type(), !element.required(), factory), -1);
    }
    if (type instanceof Type.MapOf map) {
      return factory.createMapType(
          of(map.key().type(), false, factory),
          of(map.value().type(), !map.value().required(), factory));
    }
    if (type instanceof Type.Struct struct) {
      return of(struct, factory);
    }
    if (type instanceof Type.Interval) {
      throw new InvalidInputException("An interval cannot be a column.");
    }
    return switch ((Type.Simple) type) {
      case BOOLEAN -> factory.createSqlType(SqlTypeName.BOOLEAN);
      case INTEGER -> factory.createSqlType(SqlTypeName.INTEGER);
      case BIGINT -> factory.createSqlType(SqlTypeName.BIGINT);
      case REAL -> factory.createSqlType(SqlTypeName.REAL);
      case DOUBLE -> factory.createSqlType(SqlTypeName.DOUBLE);
      case DATE -> factory.createSqlType(SqlTypeName.DATE);
      case TIME -> factory.createSqlType(SqlTypeName.TIME, MICROSECONDS);
      case TIMESTAMP -> factory.createSqlType(SqlTypeName.TIMESTAMP, MICROSECONDS);
      case INSTANT -> factory.createSqlType(SqlTypeName.TIMESTAMP_TZ, MICROSECONDS);
      case BINARY -> factory.createSqlType(SqlTypeName.VARBINARY);
      case UUID -> factory.createSqlType(SqlTypeName.UUID);
      case JSON -> factory.createSqlType(SqlTypeName.VARCHAR);
    };
  }

  /** How a type is written in a CAST; empty for nested ones. */
  public static Optional<SqlDataTypeSpec> spec(Type type) {
    if (type.isNested()) {
      return Optional.empty();
    }
    RelDataType planned = of(type, new JavaTypeFactoryImpl(new LakeTypeSystem()));
    boolean hasScale = type instanceof Type.Decimal;
    boolean hasPrecision = hasScale || type instanceof Type.Text;
    int precision = hasPrecision ? planned.getPrecision() : -1; // times have all digits
    return Optional.of(
        new SqlDataTypeSpec(
            new SqlBasicTypeNameSpec(
                planned.getSqlTypeName(),
                precision,
                hasScale ? planned.getScale() : -1,
                SqlParserPos.ZERO),
            SqlParserPos.ZERO));
  }

  /** The types of a relation's fields. */
  public static List<Type> ofFields(RelNode rel) {
    return rel.getRowType().getFieldList().stream().map(field -> of(field.getType())).toList();
  }

  /** The type of a lake that values of a planned type have. */
  public static Type of(RelDataType type) {
    return switch (type.getSqlTypeName()) {
      case BOOLEAN -> Types.BOOLEAN;
      case TINYINT, SMALLINT, INTEGER -> Types.INTEGER;
      case BIGINT -> Types.BIGINT;
      case REAL -> Types.REAL;
      case FLOAT, DOUBLE -> Types.DOUBLE;
      case DECIMAL -> Types.decimal(type.getPrecision(), Math.max(0, type.getScale()));
      case DATE -> Types.DATE;
      case TIME -> Types.TIME;
      case TIMESTAMP -> Types.TIMESTAMP;
      case TIMESTAMP_TZ, TIMESTAMP_WITH_LOCAL_TIME_ZONE -> Types.INSTANT;
      case CHAR, VARCHAR ->
          type.getPrecision() < 1 ? Types.text() : Types.text(type.getPrecision());
      case BINARY, VARBINARY -> Types.BINARY;
      case UUID -> Types.UUID;
      case NULL, ANY, UNKNOWN -> Types.text();
      case ARRAY, MULTISET -> Types.listOf(of(type.getComponentType()));
      case MAP -> Types.mapOf(of(type.getKeyType()), of(type.getValueType()));
      case ROW, STRUCTURED -> struct(type);
      default -> interval(type);
    };
  }

  private static Type interval(RelDataType type) {
    SqlTypeFamily family = type.getSqlTypeName().getFamily();
    if (family == SqlTypeFamily.INTERVAL_YEAR_MONTH) {
      return Type.Interval.MONTHS;
    }
    if (family == SqlTypeFamily.INTERVAL_DAY_TIME) {
      return Type.Interval.MICROSECONDS;
    }
    throw new InvalidInputException("Values of the type %s are not known.".formatted(type));
  }

  private static Type struct(RelDataType type) {
    List<Field> fields = new ArrayList<>();
    for (RelDataTypeField field : type.getFieldList()) {
      fields.add(Field.of(field.getName(), of(field.getType())));
    }
    return new Type.Struct(fields);
  }
}
