package org.ysteron.jdbc;

import java.sql.SQLException;
import java.sql.Struct;
import java.util.Arrays;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;

/** A value of type ROW. Immutable by agreement. */
@SuppressWarnings("ArrayRecordComponent") // structs are not compared
record LakeStruct(String typeName, @Nullable Object[] attributes) implements Struct {

  /** A row as JDBC has it. */
  static LakeStruct of(Row row, JavaValues values) throws SQLException {
    @Nullable Object[] attributes = new Object[row.fields().size()];
    for (int i = 0; i < attributes.length; i++) {
      Object value = row.get(i);
      attributes[i] = value == null ? null : values.standard(value, row.fields().get(i).type());
    }
    return new LakeStruct("ROW", attributes);
  }

  /** The values of a struct of any driver, as the library takes them. */
  static Object values(Struct struct) throws SQLException {
    return LakeArray.elements(struct.getAttributes()).toArray();
  }

  @Override
  public String getSQLTypeName() {
    return typeName;
  }

  @Override
  public @Nullable Object[] getAttributes() {
    return attributes.clone();
  }

  @Override
  public @Nullable Object[] getAttributes(@Nullable Map<String, Class<?>> map) {
    return getAttributes();
  }

  @Override
  public String toString() {
    return Arrays.toString(attributes);
  }
}
