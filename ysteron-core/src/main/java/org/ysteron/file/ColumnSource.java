package org.ysteron.file;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ColumnReadStore;
import org.apache.parquet.column.impl.ColumnReadStoreImpl;
import org.apache.parquet.column.page.PageReadStore;
import org.apache.parquet.schema.GroupType;
import org.apache.parquet.schema.MessageType;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;

/** Gives the vectors of one wanted field for ascending rows of a row group. For one thread. */
abstract class ColumnSource {

  abstract Vector read(long fromRow, int count);

  /** Like {@link #read}, with the definition level of every row; only below structs. */
  Vector read(long fromRow, int count, int[] depths) {
    throw new IllegalStateException("this column has no levels to tell");
  }

  /** What the sources of a row group share. */
  static final class Context {
    private final PageReadStore pages;
    private final MessageType schema;
    private final String createdBy;
    private ColumnReadStore readers;

    Context(PageReadStore pages, MessageType schema, String createdBy) {
      this.pages = pages;
      this.schema = schema;
      this.createdBy = createdBy;
    }

    ColumnDescriptor leaf(List<String> path) {
      return schema.getColumnDescription(path.toArray(String[]::new));
    }

    ColumnReadStore readers() {
      if (readers == null) {
        readers = new ColumnReadStoreImpl(pages, FileSchema.noConverter(), schema, createdBy);
      }
      return readers;
    }
  }

  static ColumnSource of(Field field, MessageType schema, Context context) {
    return of(field, schema, List.of(), 0, context);
  }

  private static ColumnSource of(
      Field field, GroupType group, List<String> above, int definition, Context context) {
    org.apache.parquet.schema.Type type = FileSchema.byId(group, field.id()).orElse(null);
    if (type == null) {
      return new Missing(field);
    }
    if (FileSchema.hasRepetition(field.type())) {
      return new Nested(field, group, above, context);
    }
    List<String> path = new ArrayList<>(above);
    path.add(type.getName());
    boolean optional = type.isRepetition(org.apache.parquet.schema.Type.Repetition.OPTIONAL);
    int present = definition + (optional ? 1 : 0);
    if (field.type() instanceof Type.Struct struct) {
      return struct(field, struct, type.asGroupType(), path, present, context);
    }
    ColumnDescriptor leaf = context.leaf(path);
    return new Flat(new FlatColumn(context.pages.getPageReader(leaf), leaf, field.type()));
  }

  private static ColumnSource struct(
      Field field,
      Type.Struct struct,
      GroupType group,
      List<String> path,
      int present,
      Context context) {
    List<ColumnSource> inner = new ArrayList<>();
    for (Field child : struct.fields()) {
      inner.add(of(child, group, path, present, context));
    }
    return new OfStruct(field.type(), present, inner);
  }

  /** A leaf. */
  private static final class Flat extends ColumnSource {
    private final FlatColumn column;

    Flat(FlatColumn column) {
      this.column = column;
    }

    @Override
    Vector read(long fromRow, int count) {
      return column.read(fromRow, count, null);
    }

    @Override
    Vector read(long fromRow, int count, int[] depths) {
      return column.read(fromRow, count, depths);
    }
  }

  /** A struct without lists and maps in it: the levels of its first leaf tell where it is null. */
  private static final class OfStruct extends ColumnSource {
    private final Type type;
    private final int present;
    private final List<ColumnSource> inner;

    OfStruct(Type type, int present, List<ColumnSource> inner) {
      this.type = type;
      this.present = present;
      this.inner = inner;
    }

    @Override
    Vector read(long fromRow, int count) {
      return read(fromRow, count, new int[count]);
    }

    @Override
    Vector read(long fromRow, int count, int[] depths) {
      List<Vector> vectors = new ArrayList<>();
      boolean told = false;
      for (ColumnSource source : inner) {
        if (!told && !(source instanceof Missing)) {
          vectors.add(source.read(fromRow, count, depths));
          told = true;
        } else {
          vectors.add(source.read(fromRow, count));
        }
      }
      long[] nulls = null;
      for (int i = 0; i < count; i++) {
        if (depths[i] < present) {
          nulls = nulls == null ? new long[(count + 63) >> 6] : nulls;
          nulls[i >> 6] |= 1L << i;
        }
      }
      return new Vector.OfStruct(type, count, vectors, nulls);
    }
  }

  /** Anything with a list or a map in it. */
  private static final class Nested extends ColumnSource {
    private final Field field;
    private final NestedColumn column;

    Nested(Field field, GroupType group, List<String> above, Context context) {
      this.field = field;
      if (!above.isEmpty()) {
        throw new IllegalStateException("a struct with a list in it is read as a whole");
      }
      this.column = new NestedColumn(field, group, context.readers(), context::leaf);
    }

    @Override
    Vector read(long fromRow, int count) {
      return column.read(field.type(), count);
    }
  }

  /** A field that the file lacks: its default at the time it was added, or null. */
  private static final class Missing extends ColumnSource {
    private final Field field;

    Missing(Field field) {
      this.field = field;
    }

    @Override
    Vector read(long fromRow, int count) {
      VectorBuilder builder = new VectorBuilder(field.type());
      Object value = field.addedDefault().orElse(null);
      for (int i = 0; i < count; i++) {
        builder.add(value);
      }
      return builder.build();
    }

    @Override
    Vector read(long fromRow, int count, int[] depths) {
      Arrays.fill(depths, 0, count, Integer.MAX_VALUE);
      return read(fromRow, count);
    }
  }
}
