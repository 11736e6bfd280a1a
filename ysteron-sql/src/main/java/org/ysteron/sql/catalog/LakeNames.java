package org.ysteron.sql.catalog;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.apache.calcite.rel.type.RelDataType;
import org.apache.calcite.rel.type.RelDataTypeField;
import org.apache.calcite.sql.validate.SqlNameMatcher;
import org.jspecify.annotations.Nullable;

/**
 * How names in a query meet those of columns: a name in the same case comes first, then the only
 * one that differs in case. Immutable.
 */
public final class LakeNames implements SqlNameMatcher {
  @Override
  public boolean isCaseSensitive() {
    return true; // of tables, which are looked up one by one
  }

  @Override
  public boolean matches(String string, String name) {
    return string.equalsIgnoreCase(name);
  }

  @Override
  public <K extends List<String>, V> @Nullable V get(
      Map<K, V> map, List<String> prefixNames, List<String> names) {
    List<String> all = new ArrayList<>(prefixNames);
    all.addAll(names);
    return map.get(all);
  }

  @Override
  public String bestString() {
    return "";
  }

  @Override
  public @Nullable RelDataTypeField field(RelDataType type, String name) {
    RelDataTypeField found = null;
    int count = 0;
    for (RelDataTypeField field : type.getFieldList()) {
      if (field.getName().equals(name)) {
        return field;
      }
      if (field.getName().equalsIgnoreCase(name)) {
        found = field;
        count++;
      }
    }
    return count == 1 ? found : null;
  }

  @Override
  public int frequency(Iterable<String> names, String name) {
    int same = 0;
    int alike = 0;
    for (String one : names) {
      same += one.equals(name) ? 1 : 0;
      alike += one.equalsIgnoreCase(name) ? 1 : 0;
    }
    return same > 0 ? same : alike;
  }

  @Override
  public int indexOf(Iterable<String> names, String name) {
    int at = 0;
    int alike = -1;
    for (String one : names) {
      if (one.equals(name)) {
        return at;
      }
      alike = alike < 0 && one.equalsIgnoreCase(name) ? at : alike;
      at++;
    }
    return alike;
  }

  @Override
  public Set<String> createSet() {
    return new LinkedHashSet<>();
  }
}
