package org.ysteron.internal.column;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.apache.parquet.io.api.Converter;
import org.apache.parquet.io.api.GroupConverter;
import org.apache.parquet.io.api.PrimitiveConverter;
import org.apache.parquet.schema.GroupType;
import org.apache.parquet.schema.MessageType;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;

/** Finds wanted fields in a file's schema by id, and only by id. */
public final class FileSchema {
  private FileSchema() {}

  /** The types inside a group by their field ids. */
  static Map<Integer, org.apache.parquet.schema.Type> byIds(GroupType group) {
    Map<Integer, org.apache.parquet.schema.Type> types = new HashMap<>();
    for (org.apache.parquet.schema.Type type : group.getFields()) {
      if (type.getId() != null) {
        types.putIfAbsent(type.getId().intValue(), type);
      }
    }
    return types;
  }

  /** The part of a file's schema that wanted fields need. */
  public static MessageType project(MessageType file, List<Field> wanted) {
    return new MessageType(file.getName(), projected(file, wanted));
  }

  private static List<org.apache.parquet.schema.Type> projected(
      GroupType group, List<Field> wanted) {
    List<org.apache.parquet.schema.Type> fields = new ArrayList<>();
    Map<Integer, org.apache.parquet.schema.Type> byIds = byIds(group);
    for (Field field : wanted) {
      org.apache.parquet.schema.Type type = byIds.get(field.id());
      if (type != null) {
        fields.add(project(type, field));
      }
    }
    return fields;
  }

  private static org.apache.parquet.schema.Type project(
      org.apache.parquet.schema.Type type, Field wanted) {
    if (!(wanted.type() instanceof Type.Struct struct)) {
      return type;
    }
    GroupType group = type.asGroupType();
    List<org.apache.parquet.schema.Type> inner = projected(group, struct.fields());
    // A struct none of whose wanted fields is in the file still tells which of its rows are null.
    return group.withNewFields(inner.isEmpty() ? List.of(firstBranch(group)) : inner);
  }

  /** The first field of a group, down to its first leaf only. */
  private static org.apache.parquet.schema.Type firstBranch(GroupType group) {
    org.apache.parquet.schema.Type first = group.getType(0);
    return first.isPrimitive()
        ? first
        : first.asGroupType().withNewFields(firstBranch(first.asGroupType()));
  }

  /** The path of the first leaf below a group that is at a path itself. */
  static List<String> firstLeaf(GroupType group, List<String> path) {
    List<String> names = new ArrayList<>(path);
    org.apache.parquet.schema.Type type = group;
    while (!type.isPrimitive()) {
      type = type.asGroupType().getType(0);
      names.add(type.getName());
    }
    return names;
  }

  /**
   * A file's schema under the ids of its table: fields that the file calls otherwise get the
   * table's id, and an id that the table gave to another column since counts as none.
   */
  public static MessageType named(MessageType file, FieldIds ids) {
    return new MessageType(file.getName(), named((GroupType) file, ids));
  }

  private static List<org.apache.parquet.schema.Type> named(GroupType group, FieldIds ids) {
    List<org.apache.parquet.schema.Type> fields = new ArrayList<>();
    for (org.apache.parquet.schema.Type type : group.getFields()) {
      org.apache.parquet.schema.Type inner =
          type.isPrimitive()
              ? type
              : type.asGroupType().withNewFields(named(type.asGroupType(), ids));
      fields.add(type.getId() == null ? inner : inner.withId(ids.inTable(type.getId().intValue())));
    }
    return fields;
  }

  /** Whether a list or a map is in a type. */
  static boolean hasRepetition(Type type) {
    if (type instanceof Type.ListOf || type instanceof Type.MapOf) {
      return true;
    }
    return Schema.children(type).stream().anyMatch(field -> hasRepetition(field.type()));
  }

  /** The library's column readers ask for converters; these convert nothing. */
  static GroupConverter noConverter() {
    return new GroupConverter() {
      private final PrimitiveConverter leaf = new PrimitiveConverter() {};

      @Override
      public Converter getConverter(int fieldIndex) {
        return new GroupOrLeaf(leaf);
      }

      @Override
      public void start() {}

      @Override
      public void end() {}
    };
  }

  /** Stands for a group or for a leaf, whichever it is asked to be. */
  private static final class GroupOrLeaf extends Converter {
    private final PrimitiveConverter leaf;

    GroupOrLeaf(PrimitiveConverter leaf) {
      this.leaf = leaf;
    }

    @Override
    public boolean isPrimitive() {
      return false;
    }

    @Override
    public GroupConverter asGroupConverter() {
      return noConverter();
    }

    @Override
    public PrimitiveConverter asPrimitiveConverter() {
      return leaf;
    }
  }
}
