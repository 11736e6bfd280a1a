package org.ysteron.internal.column;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import org.apache.parquet.column.ColumnDescriptor;
import org.apache.parquet.column.ColumnReadStore;
import org.apache.parquet.column.ColumnReader;
import org.apache.parquet.column.impl.ColumnReadStoreImpl;
import org.apache.parquet.column.page.PageReadStore;
import org.apache.parquet.schema.GroupType;
import org.apache.parquet.schema.MessageType;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.data.Widening;
import org.ysteron.internal.filter.ColumnTest;
import org.ysteron.internal.rows.Gather;

/** Gives the vectors of one wanted field for ascending rows of a row group. For one thread. */
public abstract class ColumnSource {

  public abstract Vector read(long fromRow, int count);

  /** Passes over rows that {@link #read} would read, unless the next read does that by itself. */
  public void pass(long fromRow, int count) {
    if (!skips()) {
      read(fromRow, count);
    }
  }

  /** Whether rows before those that are asked for are passed over. */
  boolean skips() {
    return false;
  }

  /** Whether rows can be narrowed by tests before they are vectors. */
  public boolean narrows() {
    return false;
  }

  /**
   * Narrows a selection of the rows that {@link #read} would read, in place.
   *
   * @return how many are left
   */
  public int narrow(long fromRow, int count, ColumnTest test, int[] rows, int left) {
    throw new IllegalStateException("this column is read before it is tested");
  }

  /** All rows that were narrowed, good until others are. */
  public Vector narrowed(long fromRow, int count) {
    return read(fromRow, count);
  }

  /** All rows that were narrowed, to be kept; those that were left out may have any values. */
  public Vector whole(long fromRow, int count) {
    return read(fromRow, count);
  }

  /** Some of the rows that were narrowed. */
  public Vector some(long fromRow, int count, int[] rows) {
    return Gather.values(read(fromRow, count), rows);
  }

  /** Like {@link #read}, with the definition level of every row; only below structs. */
  public Vector read(long fromRow, int count, int[] depths) {
    throw new IllegalStateException("this column has no levels to tell");
  }

  /**
   * Reads some of the rows that {@link #read} would read.
   *
   * @param span how many rows {@code read} would read
   * @param runs which: how far behind the first, and how many, again and again
   * @param count how many rows in all
   */
  public Vector readRuns(long fromRow, int span, int[] runs, int count) {
    int[] positions = new int[count];
    int next = 0;
    for (int run = 0; run < runs.length; run += 2) {
      for (int i = 0; i < runs[run + 1]; i++) {
        positions[next++] = runs[run] + i;
      }
    }
    return Gather.values(read(fromRow, span), positions);
  }

  /** What the sources of a row group share. */
  public static final class Context {
    private final PageReadStore pages;
    private final MessageType schema;
    private final String createdBy;
    private final IdentityHashMap<GroupType, Map<Integer, org.apache.parquet.schema.Type>> byIds =
        new IdentityHashMap<>();
    private final Map<ColumnDescriptor, CodedRows> arrays;
    private ColumnReadStore readers;

    /** For the next row group of a file; {@code before}: the one before it, or null. */
    public Context(PageReadStore pages, MessageType schema, String createdBy, Context before) {
      this.arrays = before == null ? new HashMap<>() : before.arrays;
      this.pages = pages;
      this.schema = schema;
      this.createdBy = createdBy;
    }

    /** The type inside a group that has a field id; null when there is none. */
    org.apache.parquet.schema.Type type(GroupType group, int id) {
      return byIds.computeIfAbsent(group, FileSchema::byIds).get(id);
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

  public static ColumnSource of(Field field, MessageType schema, Context context) {
    return of(field, schema, List.of(), 0, context);
  }

  private static ColumnSource of(
      Field field, GroupType group, List<String> above, int definition, Context context) {
    org.apache.parquet.schema.Type type = context.type(group, field.id());
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
    Type held = ParquetTypes.held(leaf.getPrimitiveType(), field.type());
    FlatColumn column =
        new FlatColumn(context.pages.getPageReader(leaf), leaf, held, context.arrays);
    return held.equals(field.type()) ? new Flat(column) : new Widened(column, field.type());
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
    boolean told = inner.stream().anyMatch(source -> !(source instanceof Missing));
    Levels levels = told ? null : new Levels(FileSchema.firstLeaf(group, path), context);
    return new OfStruct(field.type(), present, inner, levels);
  }

  /** A leaf. */
  private static final class Flat extends ColumnSource {
    private final FlatColumn column;

    Flat(FlatColumn column) {
      this.column = column;
    }

    @Override
    boolean skips() {
      return true;
    }

    @Override
    public boolean narrows() {
      return column.loads();
    }

    @Override
    public int narrow(long fromRow, int count, ColumnTest test, int[] rows, int left) {
      return column.load(fromRow, count, rows, left).narrow(test, rows, left);
    }

    @Override
    public Vector narrowed(long fromRow, int count) {
      return column.load(fromRow, count).all();
    }

    @Override
    public Vector whole(long fromRow, int count) {
      return narrows() ? column.give(fromRow, count) : read(fromRow, count);
    }

    @Override
    public Vector some(long fromRow, int count, int[] rows) {
      return rows.length == count
          ? column.give(fromRow, count)
          : column.load(fromRow, count).some(rows);
    }

    @Override
    public Vector read(long fromRow, int count) {
      return column.read(fromRow, count, null);
    }

    @Override
    public Vector readRuns(long fromRow, int span, int[] runs, int count) {
      return column.readRuns(fromRow, runs, count);
    }

    @Override
    public Vector read(long fromRow, int count, int[] depths) {
      return column.read(fromRow, count, depths);
    }
  }

  /** A leaf whose column has become wider than the file. */
  private static final class Widened extends ColumnSource {
    private final FlatColumn column;
    private final Type type;

    Widened(FlatColumn column, Type type) {
      this.column = column;
      this.type = type;
    }

    @Override
    boolean skips() {
      return true;
    }

    @Override
    public Vector read(long fromRow, int count) {
      return Widening.vector(column.read(fromRow, count, null), type);
    }

    @Override
    public Vector readRuns(long fromRow, int span, int[] runs, int count) {
      return Widening.vector(column.readRuns(fromRow, runs, count), type);
    }

    @Override
    public Vector read(long fromRow, int count, int[] depths) {
      return Widening.vector(column.read(fromRow, count, depths), type);
    }
  }

  /** The definition level of each row, from a leaf of which nothing else is wanted. */
  private static final class Levels {
    private final ColumnReader reader;

    Levels(List<String> leaf, Context context) {
      this.reader = context.readers().getColumnReader(context.leaf(leaf));
    }

    void read(int count, int[] depths) {
      for (int i = 0; i < count; i++) {
        depths[i] = reader.getCurrentDefinitionLevel();
        do {
          reader.consume();
        } while (reader.getCurrentRepetitionLevel() > 0);
      }
    }
  }

  /** A struct without lists and maps in it: the levels of its first leaf tell where it is null. */
  private static final class OfStruct extends ColumnSource {
    private final Type type;
    private final int present;
    private final List<ColumnSource> inner;
    private final Levels levels;

    /** {@code levels}: when no wanted field is in the file that could tell. */
    OfStruct(Type type, int present, List<ColumnSource> inner, Levels levels) {
      this.type = type;
      this.present = present;
      this.inner = inner;
      this.levels = levels;
    }

    @Override
    boolean skips() {
      return levels == null && inner.stream().allMatch(ColumnSource::skips);
    }

    @Override
    public Vector read(long fromRow, int count) {
      return read(fromRow, count, new int[count]);
    }

    @Override
    public Vector read(long fromRow, int count, int[] depths) {
      List<Vector> vectors = new ArrayList<>();
      boolean told = levels != null;
      if (told) {
        levels.read(count, depths);
      }
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
      if (nulls != null) {
        for (int i = 0; i < inner.size(); i++) {
          if (inner.get(i) instanceof Missing missing) {
            vectors.set(i, missing.without(nulls, count));
          }
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
    public Vector read(long fromRow, int count) {
      return column.read(field.type(), count);
    }
  }

  /** A field that the file lacks: its default at the time it was added, or null. */
  private static final class Missing extends ColumnSource {
    private final Field field;
    private Vector last;

    Missing(Field field) {
      this.field = field;
    }

    @Override
    boolean skips() {
      return true;
    }

    @Override
    public Vector read(long fromRow, int count) {
      if (last == null || last.size() != count) {
        last = filled(null, count);
      }
      return last;
    }

    /** The default in all rows but those that are null anyway. */
    Vector without(long[] nulls, int count) {
      return field.addedDefault().isEmpty() ? read(0, count) : filled(nulls, count);
    }

    private Vector filled(long[] nulls, int count) {
      VectorBuilder builder = new VectorBuilder(field.type());
      Object value = field.addedDefault().orElse(null);
      for (int i = 0; i < count; i++) {
        boolean isNull = nulls != null && (nulls[i >> 6] & (1L << i)) != 0;
        builder.add(isNull ? null : value);
      }
      return builder.build();
    }
  }
}
