package org.ysteron.file;

import java.util.ArrayList;
import java.util.List;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ColumnReadStore;
import org.apache.parquet.column.ColumnReader;
import org.apache.parquet.io.api.Binary;
import org.apache.parquet.schema.GroupType;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;

/**
 * Reads a column that is, or holds, a list or a map: all its leaves in step, one row after the
 * other, put together by their levels (Dremel, Melnik et al., VLDB 2010). For one thread.
 */
final class NestedColumn {
  private final Node root;

  /** A field as the file has it. */
  private abstract static class Node {
    final int present;

    /** {@code present}: the definition level from which on a value is here. */
    Node(int present) {
      this.present = present;
    }

    /** The reader of the first leaf, whose levels speak for this node. */
    abstract ColumnReader first();

    /** Adds the current value. */
    abstract void add(VectorBuilder target);

    /** Goes past a null or an empty list in every leaf below. */
    abstract void skip();
  }

  /**
   * Prepares to read.
   *
   * @param field the field wanted; each field inside exists in the file
   * @param group the group of the file that holds it
   * @param store gives the readers of the rows wanted
   * @param leaves finds a leaf's descriptor by its path
   */
  NestedColumn(Field field, GroupType group, ColumnReadStore store, Leaves leaves) {
    this.root = node(field, group, new ArrayList<>(), 0, 0, store, leaves);
  }

  /** Finds descriptors by path. */
  @FunctionalInterface
  interface Leaves {
    ColumnDescriptor at(List<String> path);
  }

  Vector read(Type type, int count) {
    VectorBuilder builder = new VectorBuilder(type);
    for (int i = 0; i < count; i++) {
      root.add(builder);
    }
    return builder.build();
  }

  private static Node node(
      Field field,
      GroupType group,
      List<String> above,
      int definition,
      int repetition,
      ColumnReadStore store,
      Leaves leaves) {
    org.apache.parquet.schema.Type type = FileSchema.byId(group, field.id()).orElseThrow();
    List<String> path = new ArrayList<>(above);
    path.add(type.getName());
    boolean optional = type.isRepetition(org.apache.parquet.schema.Type.Repetition.OPTIONAL);
    int present = definition + (optional ? 1 : 0);
    if (field.type() instanceof Type.Struct struct) {
      List<Node> inner = new ArrayList<>();
      for (Field child : struct.fields()) {
        inner.add(node(child, type.asGroupType(), path, present, repetition, store, leaves));
      }
      return new OfStruct(present, inner);
    }
    if (type.isPrimitive()) {
      return new Leaf(present, store.getColumnReader(leaves.at(path)), field.type());
    }
    GroupType repeated = type.asGroupType().getType(0).asGroupType();
    path.add(repeated.getName());
    List<Node> inner = new ArrayList<>();
    for (Field child : org.ysteron.data.Schema.children(field.type())) {
      inner.add(node(child, repeated, path, present + 1, repetition + 1, store, leaves));
    }
    return new Repeated(present, repetition + 1, inner);
  }

  private static final class OfStruct extends Node {
    private final List<Node> inner;

    OfStruct(int present, List<Node> inner) {
      super(present);
      this.inner = inner;
    }

    @Override
    ColumnReader first() {
      return inner.get(0).first();
    }

    @Override
    void add(VectorBuilder target) {
      if (first().getCurrentDefinitionLevel() < present) {
        skip();
        target.addNull();
        return;
      }
      for (int i = 0; i < inner.size(); i++) {
        inner.get(i).add(target.inner(i));
      }
      target.endNested();
    }

    @Override
    void skip() {
      inner.forEach(Node::skip);
    }
  }

  private static final class Repeated extends Node {
    private final int level;
    private final List<Node> inner;

    Repeated(int present, int level, List<Node> inner) {
      super(present);
      this.level = level;
      this.inner = inner;
    }

    @Override
    ColumnReader first() {
      return inner.get(0).first();
    }

    @Override
    void add(VectorBuilder target) {
      int definition = first().getCurrentDefinitionLevel();
      if (definition <= present) {
        skip();
        if (definition < present) {
          target.addNull();
        } else {
          target.endNested();
        }
        return;
      }
      do {
        for (int i = 0; i < inner.size(); i++) {
          inner.get(i).add(target.inner(i));
        }
      } while (first().getCurrentRepetitionLevel() == level);
      target.endNested();
    }

    @Override
    void skip() {
      inner.forEach(Node::skip);
    }
  }

  private static final class Leaf extends Node {
    private final ColumnReader reader;
    private final Type type;

    Leaf(int present, ColumnReader reader, Type type) {
      super(present);
      this.reader = reader;
      this.type = type;
    }

    @Override
    ColumnReader first() {
      return reader;
    }

    @Override
    void add(VectorBuilder target) {
      if (reader.getCurrentDefinitionLevel() < present) {
        target.addNull();
      } else {
        addValue(target);
      }
      reader.consume();
    }

    private void addValue(VectorBuilder target) {
      switch (type.physical()) {
        case BOOLEAN -> target.addBoolean(reader.getBoolean());
        case INT -> target.addInt(reader.getInteger());
        case LONG -> target.addLong(reader.getLong());
        case FLOAT -> target.addFloat(reader.getFloat());
        case DOUBLE -> target.addDouble(reader.getDouble());
        case BYTES -> {
          Binary value = reader.getBinary();
          byte[] bytes = value.getBytes();
          if (type instanceof Type.Decimal) {
            bytes[0] ^= (byte) 0x80;
          }
          target.addBytes(bytes, 0, bytes.length);
        }
        case NESTED -> throw new IllegalArgumentException(type + " is no leaf");
      }
    }

    @Override
    void skip() {
      reader.consume();
    }
  }
}
