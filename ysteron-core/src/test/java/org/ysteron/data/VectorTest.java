package org.ysteron.data;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.ysteron.RandomRows;
import org.ysteron.internal.rows.Gather;

class VectorTest {
  private final Schema schema = RandomRows.everyType();

  private Batch batch(List<Object[]> rows) {
    List<VectorBuilder> builders =
        schema.columns().stream().map(column -> new VectorBuilder(column.type())).toList();
    for (Object[] row : rows) {
      for (int c = 0; c < row.length; c++) {
        builders.get(c).add(row[c]);
      }
    }
    return new Batch(
        schema.struct(), rows.size(), builders.stream().map(VectorBuilder::build).toList());
  }

  private List<Object[]> rows(long seed, int count) {
    RandomRows random = new RandomRows(seed);
    List<Object[]> rows = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      rows.add(random.row(schema, i));
    }
    return rows;
  }

  @Property(tries = 40)
  void builtVectorsHoldWhatWasAdded(@ForAll long seed) {
    List<Object[]> rows = rows(seed, 150);
    Batch batch = batch(rows);
    for (int i = 0; i < rows.size(); i++) {
      assertThat(batch.row(i)).isEqualTo(Row.of(schema.struct(), rows.get(i)));
    }
    for (int c = 0; c < schema.columns().size(); c++) {
      int column = c;
      long nulls = rows.stream().filter(row -> row[column] == null).count();
      assertThat(batch.vectors().get(c).nullCount()).isEqualTo((int) nulls);
    }
  }

  @Property(tries = 40)
  void selectedRowsAreTheSelectedOnes(@ForAll long seed) {
    List<Object[]> rows = rows(seed, 130);
    Batch batch = batch(rows);
    Random random = new Random(seed);
    long[] selected = new long[3];
    List<Row> expected = new ArrayList<>();
    for (int i = 0; i < rows.size(); i++) {
      if (random.nextBoolean()) {
        selected[i >> 6] |= 1L << i;
        expected.add(batch.row(i));
      }
    }
    assertThat(Gather.select(batch, selected).rows()).isEqualTo(expected);
    assertThat(Gather.first(batch, 7).rows()).isEqualTo(batch.rows().subList(0, 7));
  }

  @Test
  void aBatchThatIsSelectedWholeIsNotCopied() {
    Batch batch = batch(rows(3, 64));
    assertThat(Gather.select(batch, new long[] {-1L})).isSameAs(batch);
    assertThat(Gather.select(batch, new long[] {0}).size()).isZero();
  }

  @Test
  void aBuilderStartsAnewAfterBuilding() {
    VectorBuilder builder = new VectorBuilder(Types.listOf(Types.text()));
    builder.add(List.of("a", "b"));
    builder.add(null);
    Vector first = builder.build();
    builder.add(List.of("c"));
    Vector second = builder.build();
    assertThat(first.get(0)).isEqualTo(List.of("a", "b"));
    assertThat(first.get(1)).isNull();
    assertThat(second.size()).isEqualTo(1);
    assertThat(second.get(0)).isEqualTo(List.of("c"));
    assertThat(second.nulls()).isNull();
  }

  @Test
  void aBuilderKnowsAboutHowMuchItHolds() {
    VectorBuilder builder = new VectorBuilder(Types.text());
    for (int i = 0; i < 100; i++) {
      builder.add("x".repeat(50));
    }
    assertThat(builder.heldBytes()).isBetween(5000L, 7000L);
  }

  @Test
  void batchesMustBeOfOnePiece() {
    Vector three = new Vector.OfInt(Types.INTEGER, 3, new int[3], null);
    Type.Struct one = (Type.Struct) Types.struct(Field.of("a", Types.INTEGER));
    assertThatThrownBy(() -> new Batch(one, 2, List.of(three)))
        .hasMessageContaining("a vector has 3 values for 2 rows");
    assertThatThrownBy(() -> new Batch(one, 3, List.of())).hasMessageContaining("1 columns and 0");
    Batch batch = new Batch(one, 3, List.of(three));
    assertThat(batch.vector("a")).isSameAs(three);
    assertThatThrownBy(() -> batch.vector("b")).hasMessageContaining("no column b");
  }
}
