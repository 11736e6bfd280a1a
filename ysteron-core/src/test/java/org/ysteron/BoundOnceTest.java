package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mockStatic;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.mockito.MockedStatic;
import org.mockito.stubbing.Answer;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.LayoutPlan;
import org.ysteron.option.TableSettings;
import org.ysteron.store.MemoryStore;

/** A condition meets the columns once for each statement, however many files it is applied to. */
class BoundOnceTest {
  private static final Condition WANTED =
      column("k").between(150, 520).and(column("v").lessThan(500L));

  private Lake lake;
  private Table table;

  /** A statement with the condition. */
  record Use(String name, Consumer<Table> statement) {
    @Override
    public String toString() {
      return name;
    }
  }

  static Stream<Use> uses() {
    return Stream.of(
        new Use("rows", table -> table.scan().where(WANTED).rows()),
        new Use("count", table -> table.scan().where(WANTED).count()),
        new Use("explain", table -> table.scan().where(WANTED).explain()),
        new Use("tasks", table -> table.scan().where(WANTED).tasks()),
        new Use(
            "delete by masks", table -> table.delete().where(WANTED).style(ChangeStyle.MASK).run()),
        new Use("delete", table -> table.delete().where(WANTED).style(ChangeStyle.REWRITE).run()),
        new Use("update", table -> table.update().where(WANTED).set("v", 1L).run()),
        new Use("rewrite", table -> table.rewrite().where(WANTED).run()));
  }

  @BeforeEach
  void fill() {
    lake = Lake.create(new MemoryStore(), LakeOptions.DEFAULTS.threads(1));
    table =
        lake.createTable(
            "t.x",
            Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT)),
            TableSettings.DEFAULTS.groupBytes(1 << 10),
            LayoutPlan.none().every("k", 100));
    for (int from : List.of(0, 1000)) {
      try (Append append = table.append()) {
        for (int k = from; k < from + 1000; k++) {
          append.add(k % 1000, (long) k % 1000);
        }
        append.commit();
      }
    }
    assertThat(table.now().files()).hasSize(20);
  }

  @AfterEach
  void closeLake() {
    lake.close();
  }

  @ParameterizedTest
  @MethodSource("uses")
  @SuppressWarnings("try") // it answers as long as it is open
  void aStatementBindsItsConditionOnce(Use use) {
    List<Condition> bound = new ArrayList<>();
    Answer<?> noting =
        call -> {
          if (call.getMethod().getName().equals("bind") && call.getArguments().length == 3) {
            bound.add(call.getArgument(0));
          }
          return call.callRealMethod();
        };
    try (MockedStatic<Filter> filters = mockStatic(Filter.class, noting)) {
      use.statement().accept(table);
    }
    assertThat(bound.stream().filter(c -> !c.toString().equals(Condition.all().toString())))
        .containsExactly(WANTED.simplified());
  }
}
