package org.ysteron.internal.compute;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.internal.bytes.Wide;

/** Parts of lists, maps and structs. */
final class NestedKernels {
  private NestedKernels() {}

  /** CARDINALITY. */
  static final class Cardinality extends Kernel {
    private final Kernel of;

    Cardinality(Kernel of) {
      super(Types.INTEGER);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      out.begin(rows, Held.Form.LONGS, from);
      int[] offsets = offsets(from.vector);
      for (int i = 0; i < rows.size(); i++) {
        int count = offsets[i + 1] - offsets[i];
        out.longs[i] = count;
      }
      return out;
    }
  }

  private static int[] offsets(Vector vector) {
    return vector instanceof Vector.OfList list
        ? list.offsets()
        : ((Vector.OfMap) vector).offsets();
  }

  /** A list of values. */
  static final class ListOf extends Kernel {
    private final List<Kernel> of;
    private final Wide scratch = new Wide();

    ListOf(List<Kernel> of, Type type) {
      super(type);
      this.of = of;
    }

    @Override
    public Held eval(Rows rows) {
      List<Vector> values = new ArrayList<>();
      for (Kernel kernel : of) {
        values.add(Vectors.of(kernel.eval(rows), kernel.type));
      }
      int[] offsets = new int[rows.size() + 1];
      Type element = ((Type.ListOf) type).element().type();
      VectorBuilder elements =
          new VectorBuilder(element, Math.max(1, rows.count() * values.size()));
      int[] one = new int[1];
      int next = 0;
      for (int i = 0; i < rows.size(); i++) {
        offsets[i] = elements.size();
        if (next < rows.count() && rows.selected()[next] == i) {
          next++;
          one[0] = i;
          values.forEach(vector -> elements.addAll(vector, one, 1));
        }
      }
      offsets[rows.size()] = elements.size();
      return out.of(
          new Vector.OfList(type, rows.size(), offsets, elements.buildLast(), null), scratch);
    }
  }

  /** A field of a struct. */
  static final class FieldOf extends Kernel {
    private final Kernel of;
    private final int position;
    private final Wide scratch = new Wide();

    FieldOf(Kernel of, int position, Type type) {
      super(type);
      this.of = of;
      this.position = position;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      Vector.OfStruct struct = (Vector.OfStruct) from.vector;
      out.of(struct.fields().get(position), scratch);
      out.nullsOf(from);
      return out;
    }
  }

  /** An element of a list, or the value of a key of a map. */
  static final class ElementOf extends Kernel {
    private final Kernel of;
    private final Kernel key;
    private final Wide scratch = new Wide();
    private final Held keys = new Held();

    ElementOf(Kernel of, Kernel key, Type type) {
      super(type);
      this.of = of;
      this.key = key;
    }

    @Override
    public Held eval(Rows rows) {
      Held from = of.eval(rows);
      Held at = key.eval(rows);
      int[] places = new int[rows.size()];
      Arrays.fill(places, -1);
      boolean isList = from.vector instanceof Vector.OfList;
      if (!isList) {
        keys.of(((Vector.OfMap) from.vector).keys(), scratch);
      }
      for (int j = 0; j < rows.count(); j++) {
        int i = rows.selected()[j];
        if (!from.isNull(i) && !at.isNull(i)) {
          places[i] = isList ? inList(from, at, i) : inMap(from, at, i);
        }
      }
      Vector elements =
          from.vector instanceof Vector.OfList list
              ? list.elements()
              : ((Vector.OfMap) from.vector).mapped();
      VectorBuilder found = new VectorBuilder(type, rows.size());
      int[] one = new int[1];
      for (int place : places) {
        if (place < 0) {
          found.addNull();
        } else {
          one[0] = place;
          found.addAll(elements, one, 1);
        }
      }
      return out.of(found.buildLast(), scratch);
    }

    private int inList(Held from, Held at, int i) {
      int[] offsets = offsets(from.vector);
      long place = at.longs[i];
      int count = offsets[i + 1] - offsets[i];
      if (place < 1 || place > count) {
        throw failure(
            i,
            "Element %d of a list of %d does not exist; test CARDINALITY first"
                .formatted(place, count));
      }
      return offsets[i] + (int) place - 1;
    }

    private int inMap(Held from, Held at, int i) {
      int[] offsets = offsets(from.vector);
      for (int place = offsets[i]; place < offsets[i + 1]; place++) {
        if (Comparisons.compare(keys, place, at, i, key.type) == 0) {
          return place;
        }
      }
      return -1;
    }
  }
}
