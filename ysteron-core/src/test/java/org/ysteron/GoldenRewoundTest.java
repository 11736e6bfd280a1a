package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.RewoundException;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LayoutPlan;

/**
 * A lake whose table was rewound, over an alteration, with changes behind it and a rewind of the
 * rewind. Made once by {@link #main} and kept.
 */
class GoldenRewoundTest {
  private static final Path KEPT = Path.of("src/test/resources/golden/format-1-rewound");

  @TempDir Path directory;

  /** Writes a lake to keep. */
  public static void main(String[] arguments) {
    Schema schema =
        Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)).withKey("k");
    try (Lake lake = Lake.create(Path.of(arguments[0]))) {
      Table table = lake.createTable("t.x", schema);
      try (Append append = table.append()) {
        append.add(1, 10).add(2, 20).add(3, 30);
        append.commit();
      }
      table
          .alter()
          .add(Field.of("more", Types.DOUBLE))
          .layout(LayoutPlan.none().hash("k", 2))
          .run();
      table.update().all().set("v", 0).style(ChangeStyle.REWRITE).run("forgot its WHERE");
      table.openWriter("w").append(1, rows -> rows.add(4, 40, 0.5));
      try (Transaction work = lake.begin()) {
        TransactionTable inside = work.table("t.x");
        inside.rewind().to(1).writerFrom("w", 1).run();
        inside.update().where(column("k").equalTo(2)).set("v", 21).style(ChangeStyle.MASK).run();
        work.commit("taken back");
      }
      table.rewind().to(5).run("and back again");
      table.rewind().to(6).run("and taken back");
    }
  }

  private static List<String> rows(TableView view) {
    return view.scan().rows().stream().map(Row::toString).sorted().toList();
  }

  @Test
  void everyVersionIsRead() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      assertThat(rows(table.at(1))).containsExactly("{k=1, v=10}", "{k=2, v=20}", "{k=3, v=30}");
      assertThat(rows(table.at(5)))
          .containsExactly(
              "{k=1, v=0, more=null}",
              "{k=2, v=0, more=null}",
              "{k=3, v=0, more=null}",
              "{k=4, v=40, more=0.5}");
      assertThat(rows(table.at(6))).containsExactly("{k=1, v=10}", "{k=2, v=21}", "{k=3, v=30}");
      assertThat(rows(table.at(7))).isEqualTo(rows(table.at(5)));
      assertThat(rows(table.now())).isEqualTo(rows(table.at(6)));
      assertThat(table.history(3))
          .extracting(record -> record.rewoundTo().orElse(-1L))
          .containsExactly(6L, 5L, 1L);
      assertThatThrownBy(table.follow(5)::poll).isInstanceOf(RewoundException.class);
    }
  }

  @Test
  void itIsChangedOn() throws IOException {
    try (Lake lake = GoldenLakeTest.open(KEPT, directory.resolve("lake"))) {
      Table table = lake.table("t.x");
      NamedWriter writer = table.openWriter("w");
      assertThat(writer.session()).isEqualTo(3);
      assertThat(writer.append(1, rows -> rows.add(4, 41)).isCommitted()).isTrue();
      table.rewrite().run();
      table.alter().add(Field.of("other", Types.INTEGER)).run();
      assertThat(rows(table.now()))
          .containsExactly(
              "{k=1, v=10, other=null}",
              "{k=2, v=21, other=null}",
              "{k=3, v=30, other=null}",
              "{k=4, v=41, other=null}");
    }
  }
}
