package org.ysteron.internal.column;

import java.util.ArrayList;
import java.util.List;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ColumnReadStore;
import org.apache.parquet.column.ColumnReader;
import org.apache.parquet.io.api.Binary;
import org.apache.parquet.schema.GroupType;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.data.Widening;

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
   * @param field the field wanted; fields inside may be missing in the file
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
    org.apache.parquet.schema.Type type = FileSchema.byIds(group).get(field.id());
    if (type == null) {
      return new Missing(field.addedDefault().orElse(null));
    }
    List<String> path = new ArrayList<>(above);
    path.add(type.getName());
    boolean optional = type.isRepetition(org.apache.parquet.schema.Type.Repetition.OPTIONAL);
    int present = definition + (optional ? 1 : 0);
    if (field.type() instanceof Type.Struct struct) {
      List<Node> inner = new ArrayList<>();
      for (Field child : struct.fields()) {
        inner.add(node(child, type.asGroupType(), path, present, repetition, store, leaves));
      }
      if (inner.stream().allMatch(Missing.class::isInstance)) {
        List<String> leaf = FileSchema.firstLeaf(type.asGroupType(), path);
        inner.add(new Levels(store.getColumnReader(leaves.at(leaf)), repetition));
      }
      return new OfStruct(present, inner, struct.fields().size());
    }
    if (type.isPrimitive()) {
      ColumnDescriptor leaf = leaves.at(path);
      Type held = ParquetTypes.held(leaf.getPrimitiveType(), field.type());
      return new Leaf(present, store.getColumnReader(leaf), held, field.type());
    }
    GroupType repeated = type.asGroupType().getType(0).asGroupType();
    path.add(repeated.getName());
    List<Node> inner = new ArrayList<>();
    for (Field child : org.ysteron.data.Schema.children(field.type())) {
      inner.add(node(child, repeated, path, present + 1, repetition + 1, store, leaves));
    }
    return new Repeated(present, repetition + 1, inner);
  }

  /** A field that the file lacks. */
  private static final class Missing extends Node {
    private final Object value;

    Missing(Object value) {
      super(0);
      this.value = value;
    }

    @Override
    ColumnReader first() {
      return null;
    }

    @Override
    void add(VectorBuilder target) {
      target.add(value);
    }

    @Override
    void skip() {}
  }

  /** A leaf of which only the levels are wanted, for they speak for the struct it is in. */
  private static final class Levels extends Node {
    private final ColumnReader reader;
    private final int repetition;

    Levels(ColumnReader reader, int repetition) {
      super(0);
      this.reader = reader;
      this.repetition = repetition;
    }

    @Override
    ColumnReader first() {
      return reader;
    }

    @Override
    void add(VectorBuilder target) {
      throw new IllegalStateException("nothing of this leaf is wanted");
    }

    @Override
    void skip() {
      do {
        reader.consume();
      } while (reader.getCurrentRepetitionLevel() > repetition);
    }
  }

  private static final class OfStruct extends Node {
    private final List<Node> inner;
    private final int wanted;
    private final Node speaker;

    /** {@code wanted}: how many of the nodes are fields; one more may tell the levels. */
    OfStruct(int present, List<Node> inner, int wanted) {
      super(present);
      this.inner = inner;
      this.wanted = wanted;
      this.speaker = inner.stream().filter(n -> !(n instanceof Missing)).findFirst().orElseThrow();
    }

    @Override
    ColumnReader first() {
      return speaker.first();
    }

    @Override
    void add(VectorBuilder target) {
      if (first().getCurrentDefinitionLevel() < present) {
        skip();
        target.addNull();
        return;
      }
      for (int i = 0; i < wanted; i++) {
        inner.get(i).add(target.inner(i));
      }
      if (wanted < inner.size()) {
        inner.get(wanted).skip();
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
    private final Type held;
    private final Type wanted;
    private final boolean alike;

    /** {@code held}: the type by which the file has it. */
    Leaf(int present, ColumnReader reader, Type held, Type wanted) {
      super(present);
      this.reader = reader;
      this.held = held;
      this.wanted = wanted;
      this.alike = held.equals(wanted);
    }

    @Override
    ColumnReader first() {
      return reader;
    }

    @Override
    void add(VectorBuilder target) {
      if (reader.getCurrentDefinitionLevel() < present) {
        target.addNull();
      } else if (alike) {
        addValue(target);
      } else {
        target.add(Widening.value(value(), held, wanted));
      }
      reader.consume();
    }

    /** The current value in the file's own type, which can become wider. */
    private Object value() {
      return switch (held.physical()) {
        case INT -> Values.fromLong(reader.getInteger(), held);
        case LONG -> Values.fromLong(reader.getLong(), held);
        case FLOAT -> reader.getFloat();
        case BYTES -> {
          byte[] bytes = ordered(reader.getBinary());
          yield Values.fromBytes(bytes, 0, bytes.length, held);
        }
        case BOOLEAN, DOUBLE, NESTED ->
            throw new IllegalArgumentException(held + " does not become wider");
      };
    }

    private byte[] ordered(Binary value) {
      byte[] bytes = value.getBytes();
      if (held instanceof Type.Decimal) {
        bytes[0] ^= (byte) 0x80;
      }
      return bytes;
    }

    private void addValue(VectorBuilder target) {
      switch (held.physical()) {
        case BOOLEAN -> target.addBoolean(reader.getBoolean());
        case INT -> target.addInt(reader.getInteger());
        case LONG -> target.addLong(reader.getLong());
        case FLOAT -> target.addFloat(reader.getFloat());
        case DOUBLE -> target.addDouble(reader.getDouble());
        case BYTES -> {
          byte[] bytes = ordered(reader.getBinary());
          target.addBytes(bytes, 0, bytes.length);
        }
        case NESTED -> throw new IllegalArgumentException(held + " is no leaf");
      }
    }

    @Override
    void skip() {
      reader.consume();
    }
  }
}
