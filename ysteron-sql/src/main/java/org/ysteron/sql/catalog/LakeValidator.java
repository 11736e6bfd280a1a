package org.ysteron.sql.catalog;

import org.apache.calcite.rel.type.RelDataTypeFactory;
import org.apache.calcite.sql.SqlCall;
import org.apache.calcite.sql.SqlNode;
import org.apache.calcite.sql.SqlNodeList;
import org.apache.calcite.sql.validate.SqlConformanceEnum;
import org.apache.calcite.sql.validate.SqlValidator;
import org.apache.calcite.sql.validate.SqlValidatorCatalogReader;
import org.apache.calcite.sql.validate.SqlValidatorImpl;
import org.apache.calcite.sql.validate.SqlValidatorScope;
import org.jspecify.annotations.Nullable;

/** Tells whether a query makes sense, and gives its expressions their types. */
public final class LakeValidator extends SqlValidatorImpl {
  public LakeValidator(SqlValidatorCatalogReader reader, RelDataTypeFactory types) {
    super(
        new LakeFunctions(),
        reader,
        types,
        SqlValidator.Config.DEFAULT
            .withIdentifierExpansion(true)
            .withConformance(SqlConformanceEnum.DEFAULT));
  }

  @Override
  public void validateAggregateParams(
      SqlCall call,
      @Nullable SqlNode filter,
      @Nullable SqlNodeList distinct,
      @Nullable SqlNodeList order,
      SqlValidatorScope scope) {
    super.validateAggregateParams(LakeFunctions.ofAnyOrder(call), filter, distinct, order, scope);
  }
}
