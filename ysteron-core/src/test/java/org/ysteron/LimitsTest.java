package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.ysteron.expr.Condition.column;

import java.util.List;
import java.util.function.Consumer;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.LayoutPlan;
import org.ysteron.store.MemoryStore;

/** What would be too large or too deep to be read again is refused before anything is written. */
class LimitsTest {
  private final MemoryStore store = new MemoryStore();
  private Lake lake;
  private Table table;

  @BeforeEach
  void makeLake() {
    lake = Lake.create(store);
    table =
        lake.createTable(
            "t.x", Schema.of(Field.of("s", Types.text()), Field.of("n", Types.BIGINT)));
    try (Append append = table.append()) {
      append.add("v1", 1L);
      append.commit();
    }
  }

  private void refused(Consumer<Lake> what, String because) {
    long entry = lake.now().commit().entry();
    assertThatThrownBy(() -> what.accept(lake))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining(because)
        .hasMessageContaining("Nothing was changed");
    assertThat(lake.now().commit().entry()).isEqualTo(entry);
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.table("t.x").scan().count()).isEqualTo(1);
    }
  }

  @Test
  void alternativesAreWrittenFlatHoweverTheyAreBuilt() {
    Condition built = column("s").equalTo("v0");
    Condition nested = column("n").equalTo(0);
    for (int i = 1; i < 500; i++) {
      built = built.or(column("s").equalTo("v" + i));
      nested = new Condition.Or(List.of(column("n").equalTo(i), nested));
    }
    table.alter().check("one_of", built).check("few", nested).run();
    try (Lake fresh = Lake.open(store)) {
      assertThat(
              fresh
                  .table("t.x")
                  .now()
                  .page()
                  .form()
                  .check("one_of")
                  .orElseThrow()
                  .condition()
                  .logicalDepth(9))
          .isEqualTo(1);
      assertThat(fresh.table("t.x").scan().where(built).where(nested).count()).isEqualTo(1);
      fresh.dropTable("t.x");
    }
  }

  @Test
  void conditionsAndTypesHaveADepth() {
    Condition deep = column("n").equalTo(1);
    Type type = Types.INTEGER;
    for (int i = 0; i < 20; i++) {
      deep = deep.or(column("n").equalTo(1)).and(column("n").equalTo(1));
    }
    for (int i = 0; i < 31; i++) {
      type = i % 2 == 0 ? Types.listOf(type) : Types.struct(Field.of("f", type));
    }
    Condition tooDeep = deep;
    refused(
        in -> in.table("t.x").alter().check("deep", tooDeep).run(),
        "nested more than 32 levels deep");
    lake.createTable("t.deep", Schema.of(Field.of("f", type)));
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.table("t.deep").scan().count()).isZero();
    }
    Type tooDeepType = Types.listOf(Types.listOf(type));
    refused(
        in -> in.createTable("t.deeper", Schema.of(Field.of("f", tooDeepType))),
        "nested more than 32 levels deep");
    refused(
        in -> in.table("t.x").alter().add(Field.of("f", tooDeepType)).run(),
        "nested more than 32 levels deep");
  }

  @Test
  void freeTextHasALength() {
    refused(in -> in.table("t.x").alter().comment("s", "x".repeat(70_000)).run(), "65536 bytes");
    refused(in -> in.noting("é".repeat(40_000)).dropTable("t.x"), "The note has 80000 bytes");
    refused(in -> in.because("x".repeat(1 << 21)).dropTable("t.x"), "The statement has");
    refused(in -> in.by("x".repeat(1025), "p").dropTable("t.x"), "The author has");
    refused(in -> in.labelled("l", "x".repeat(5000)).dropTable("t.x"), "The label l has");
    refused(in -> in.table("t.x").openWriter("w".repeat(2000)), "The name of a writer has");
    refused(in -> in.noting("half \ud83d").dropTable("t.x"), "half of a surrogate pair (U+D83D)");
    refused(
        in -> in.table("t.x").alter().check("c".repeat(1100), column("n").lessThan(9)).run(),
        "The name of a check has");
    LakeHandle labelled = lake;
    for (int i = 0; i < 64; i++) {
      labelled = labelled.labelled("label " + i, "value");
    }
    LakeHandle full = labelled;
    full.renameTable("t.x", "t.y");
    full.renameTable("t.y", "t.x");
    refused(in -> full.labelled("one", "more"), "has 65 labels");
  }

  @Test
  void whatCannotBeReadAgainIsNotWritten() {
    String huge = "x".repeat(21_000_000);
    refused(
        in ->
            in.table("t.x")
                .alter()
                .add(Field.of("d", Types.text()).withDefault(huge), Place.LAST)
                .run(),
        "cannot be read back");
  }

  @Test
  void namesThatDifferByCaseOnlyAreTakenWhenAskedFor() {
    List<Field> columns =
        List.of(Field.of("Level", Types.INTEGER), Field.of("level", Types.INTEGER));
    assertThatThrownBy(() -> Schema.of(columns))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("differ by case only");
    lake.createTable("t.case", Schema.ofNamesByCase(columns));
    try (Lake fresh = Lake.open(store)) {
      assertThat(fresh.table("t.case").schema().columns()).hasSize(2);
    }
  }

  @Test
  void aLayoutThatIsReplacedInItsOwnTransactionMisleadsNobody() {
    try (Transaction work = lake.begin()) {
      TransactionTable inside = work.table("t.x");
      inside.alter().layout(LayoutPlan.none().rule("range n every 10")).run();
      for (long n = 0; n < 50; n++) {
        inside.add("first", n);
      }
      inside.alter().layout(LayoutPlan.none().rule("range n every 1")).run();
      for (long n = 50; n < 60; n++) {
        inside.add("second", n);
      }
      work.commit();
    }
    for (long n = 0; n < 60; n++) {
      assertThat(table.scan().where(column("n").equalTo(n)).count())
          .as("rows with %d", n)
          .isEqualTo(n == 1 ? 2 : 1);
    }
    assertThat(table.now().layouts()).hasSize(2);
    assertThat(table.now().entries())
        .allMatch(file -> table.now().layouts().containsKey(file.numbers().layout()));
  }

  @Test
  void newColumnsGetIdsThatNoLineOfTheTableHasGivenOut() {
    TableForm form = table.now().page().form();
    FormEditor editor = new FormEditor(form, new TableNumbers(0, 0, 40, 7, 5));
    editor.apply(new Alteration.AddColumn("", Field.of("new", Types.INTEGER), Place.LAST));
    assertThat(editor.form().schema().find("new").id()).isEqualTo(40);
    TableForm after = editor.form().after(form, new TableNumbers(0, 0, 40, 7, 5));
    assertThat(after.schemaVersion()).isEqualTo(7);
    assertThat(after.layoutVersion()).isEqualTo(form.layoutVersion());
    assertThat(new FormEditor(form, new TableNumbers(0, 0, 40, 7, 5)).form().after(form, null))
        .extracting(TableForm::schemaVersion)
        .isEqualTo(form.schemaVersion());
  }
}
