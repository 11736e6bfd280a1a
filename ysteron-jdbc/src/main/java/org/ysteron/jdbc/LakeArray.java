package org.ysteron.jdbc;

import java.sql.Array;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;

/** An array, whose elements are in memory. Immutable. */
final class LakeArray implements Array {
  private final Type element;
  private final List<?> elements;
  private final ZoneId zone;

  LakeArray(Type element, List<?> elements, ZoneId zone) {
    this.element = element;
    this.elements = elements;
    this.zone = zone;
  }

  /** The elements of an array of any driver, as the library takes them. */
  static List<@Nullable Object> elements(Array array) throws SQLException {
    if (array instanceof LakeArray own) {
      return elements(own.elements.toArray());
    }
    if (array.getArray() instanceof Object[] elements) {
      return elements(elements);
    }
    throw SqlErrors.unsupported("arrays of primitive values of another driver");
  }

  static List<@Nullable Object> elements(@Nullable Object[] given) throws SQLException {
    List<@Nullable Object> elements = new ArrayList<>(given.length);
    for (Object one : given) {
      elements.add(JavaValues.given(one));
    }
    return elements;
  }

  @Override
  public String getBaseTypeName() {
    return ColumnTypes.name(element);
  }

  @Override
  public int getBaseType() {
    return ColumnTypes.code(element);
  }

  @Override
  public Object getArray() throws SQLException {
    return getArray(1, elements.size());
  }

  @Override
  public Object getArray(@Nullable Map<String, Class<?>> map) throws SQLException {
    return getArray();
  }

  @Override
  public Object getArray(long index, int count) throws SQLException {
    List<?> some = part(index, count);
    Object[] array =
        (Object[]) java.lang.reflect.Array.newInstance(ColumnTypes.javaClass(element), some.size());
    JavaValues values = new JavaValues(zone);
    for (int i = 0; i < array.length; i++) {
      Object one = some.get(i);
      array[i] = one == null ? null : values.standard(one, element);
    }
    return array;
  }

  private List<?> part(long index, int count) throws SQLException {
    if (index < 1 || count < 0 || index - 1 + count > elements.size()) {
      throw SqlErrors.of(
          SqlErrors.DATA,
          "The array has the elements 1 to %d, not %d to %d."
              .formatted(elements.size(), index, index + count - 1));
    }
    return elements.subList((int) index - 1, (int) index - 1 + count);
  }

  @Override
  public Object getArray(long index, int count, @Nullable Map<String, Class<?>> map)
      throws SQLException {
    return getArray(index, count);
  }

  @Override
  public ResultSet getResultSet() throws SQLException {
    return getResultSet(1, elements.size());
  }

  @Override
  public ResultSet getResultSet(@Nullable Map<String, Class<?>> map) throws SQLException {
    return getResultSet();
  }

  @Override
  public ResultSet getResultSet(long index, int count) throws SQLException {
    MadeRows rows =
        new MadeRows(
            Schema.of(List.of(Field.of("INDEX", Types.BIGINT), Field.of("VALUE", element))));
    long number = index;
    for (Object one : part(index, count)) {
      rows.add(number++, one);
    }
    return rows.result(null);
  }

  @Override
  public ResultSet getResultSet(long index, int count, @Nullable Map<String, Class<?>> map)
      throws SQLException {
    return getResultSet(index, count);
  }

  @Override
  public void free() {
    // there is nothing to free
  }

  @Override
  public String toString() {
    return elements.toString();
  }
}
