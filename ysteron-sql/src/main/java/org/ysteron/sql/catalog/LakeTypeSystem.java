package org.ysteron.sql.catalog;

import java.util.Optional;
import org.apache.calcite.rel.type.RelDataType;
import org.apache.calcite.rel.type.RelDataTypeFactory;
import org.apache.calcite.rel.type.RelDataTypeSystemImpl;
import org.apache.calcite.sql.type.SqlTypeName;
import org.apache.calcite.sql.type.SqlTypeUtil;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.expr.Operator;
import org.ysteron.internal.typing.Numbers;

/**
 * The types of sums, quotients and aggregates: those of expressions, where ISO leaves them to the
 * implementation. A sum of whole numbers is wider than they are, so that it overflows late.
 */
public final class LakeTypeSystem extends RelDataTypeSystemImpl {
  private static final int MICROSECONDS = 6;
  private static final int AVERAGE_SCALE = 6;

  @Override
  public int getMaxPrecision(SqlTypeName type) {
    return switch (type) {
      case DECIMAL -> Type.Decimal.MOST_DIGITS;
      case TIME, TIMESTAMP, TIMESTAMP_TZ, TIMESTAMP_WITH_LOCAL_TIME_ZONE -> MICROSECONDS;
      case VARCHAR, CHAR, VARBINARY, BINARY -> Integer.MAX_VALUE;
      default -> super.getMaxPrecision(type);
    };
  }

  @Override
  public int getMaxScale(SqlTypeName type) {
    return type == SqlTypeName.DECIMAL ? Type.Decimal.MOST_DIGITS : super.getMaxScale(type);
  }

  @Override
  public int getDefaultPrecision(SqlTypeName type) {
    return switch (type) {
      case TIME, TIMESTAMP, TIMESTAMP_TZ, TIMESTAMP_WITH_LOCAL_TIME_ZONE -> MICROSECONDS;
      case DECIMAL -> Type.Decimal.MOST_DIGITS;
      default -> super.getDefaultPrecision(type);
    };
  }

  @Override
  public boolean shouldConvertRaggedUnionTypesToVarying() {
    return true;
  }

  @Override
  public @Nullable RelDataType deriveDecimalPlusType(
      RelDataTypeFactory factory, RelDataType left, RelDataType right) {
    return computed(Operator.ADD, factory, left, right);
  }

  @Override
  public @Nullable RelDataType deriveDecimalMultiplyType(
      RelDataTypeFactory factory, RelDataType left, RelDataType right) {
    return computed(Operator.MULTIPLY, factory, left, right);
  }

  @Override
  public @Nullable RelDataType deriveDecimalDivideType(
      RelDataTypeFactory factory, RelDataType left, RelDataType right) {
    return computed(Operator.DIVIDE, factory, left, right);
  }

  @Override
  public @Nullable RelDataType deriveDecimalModType(
      RelDataTypeFactory factory, RelDataType left, RelDataType right) {
    return computed(Operator.MOD, factory, left, right);
  }

  private static @Nullable RelDataType computed(
      Operator operator, RelDataTypeFactory factory, RelDataType left, RelDataType right) {
    if (!SqlTypeUtil.isExactNumeric(left) || !SqlTypeUtil.isExactNumeric(right)) {
      return null;
    }
    Type type = Numbers.of(operator, RelTypes.of(left), RelTypes.of(right));
    return RelTypes.of(type, left.isNullable() || right.isNullable(), factory);
  }

  @Override
  public RelDataType deriveSumType(RelDataTypeFactory factory, RelDataType argument) {
    return number(argument)
        .map(type -> RelTypes.of(sum(type), argument.isNullable(), factory))
        .orElse(argument);
  }

  @Override
  public RelDataType deriveCovarType(
      RelDataTypeFactory factory, RelDataType one, RelDataType other) {
    return factory.createTypeWithNullability(factory.createSqlType(SqlTypeName.DOUBLE), true);
  }

  private static Optional<Type> number(RelDataType argument) {
    return SqlTypeUtil.isNumeric(argument) ? Optional.of(RelTypes.of(argument)) : Optional.empty();
  }

  private static Type sum(Type type) {
    if (type == Types.INTEGER) {
      return Types.BIGINT;
    }
    return Numbers.isExact(type)
        ? Types.decimal(Type.Decimal.MOST_DIGITS, Numbers.scale(type))
        : Types.DOUBLE;
  }

  @Override
  public RelDataType deriveAvgAggType(RelDataTypeFactory factory, RelDataType argument) {
    return number(argument)
        .map(type -> RelTypes.of(average(type), argument.isNullable(), factory))
        .orElse(argument);
  }

  private static Type average(Type type) {
    if (!Numbers.isExact(type)) {
      return Types.DOUBLE;
    }
    int most = Type.Decimal.MOST_DIGITS;
    int scale = Math.min(most, Math.max(AVERAGE_SCALE, Numbers.scale(type) + AVERAGE_SCALE - 2));
    int before = Numbers.precision(type) - Numbers.scale(type);
    return Types.decimal(Math.min(most, before + scale), scale);
  }
}
