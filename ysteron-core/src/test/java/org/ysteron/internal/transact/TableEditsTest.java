package org.ysteron.internal.transact;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.CommitNote;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.write.TableWriter;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.report.Committed;
import org.ysteron.store.MemoryStore;

class TableEditsTest {
  private static final Schema SCHEMA =
      Schema.of(
              Field.of("a", Types.INTEGER),
              Field.of("s", Types.struct(Field.of("x", Types.DATE), Field.of("y", Types.TIME))),
              Field.of("l", Types.listOf(Types.INTEGER)),
              Field.of("k", Types.text()))
          .withKey("k");
  private static final CommitNote NOTE = CommitNote.standard().withNote("why").withStatement("S");

  private final LakeCore core =
      LakeCore.create(
          new MemoryStore(),
          CommitNote.standard(),
          new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)));
  private static final TableForm FORM = TableForm.of(SCHEMA, Layout.NONE);
  private final UUID id = UUID.randomUUID();

  @AfterEach
  void close() {
    core.close();
  }

  private Committed create(String name) {
    return core.commit(TableEdits.create(id, name, FORM, TableSettings.DEFAULTS), NOTE);
  }

  private VersionPage page() {
    return VersionPage.read(
        core.refresh().page().table(id, core.pages()).orElseThrow().page(), core.pages());
  }

  @Test
  void aCommitSaysWhoWhenAndWhy() {
    Committed committed = create("t.x");
    assertThat(committed.versions()).containsExactly(Map.entry(id, 0L));
    assertThat(committed.commit().note()).isEqualTo("why");
    assertThat(committed.commit().statement()).isEqualTo("S");
    assertThat(committed.commit().entry()).isEqualTo(1);
    assertThat(page().record().commit()).isEqualTo(committed.commit());
  }

  @Test
  void whatIsNotThereCannotBeChanged() {
    UUID none = UUID.randomUUID();
    assertThatThrownBy(() -> core.commit(TableEdits.drop(none, "t.n"), NOTE))
        .isInstanceOf(NotFoundException.class);
    create("t.x");
    assertThatThrownBy(() -> core.commit(TableEdits.bringBack(id, "t.x"), NOTE))
        .isInstanceOf(NotFoundException.class)
        .hasMessageContaining("is not a dropped table");
    core.commit(TableEdits.drop(id, "t.x"), NOTE);
    assertThatThrownBy(() -> core.commit(TableEdits.drop(id, "t.x"), NOTE))
        .isInstanceOf(ConflictException.class)
        .hasMessageContaining("was dropped at version 1");
    assertThatThrownBy(() -> core.commit(TableEdits.rename(id, "t.x", "t.y"), NOTE))
        .isInstanceOf(ConflictException.class);
  }

  @Test
  void aDroppedTableComesBackUnderAFreeNameOnly() {
    create("t.x");
    core.commit(TableEdits.drop(id, "t.x"), NOTE);
    core.commit(TableEdits.create(UUID.randomUUID(), "t.x", FORM, TableSettings.DEFAULTS), NOTE);
    assertThatThrownBy(() -> core.commit(TableEdits.bringBack(id, "t.x"), NOTE))
        .isInstanceOf(InvalidInputException.class)
        .hasMessageContaining("Table t.x already exists");
    core.commit(TableEdits.bringBack(id, "t.old"), NOTE);
    assertThat(core.refresh().page().tables(false, core.pages())).hasSize(2);
    assertThat(page().name()).isEqualTo("t.old");
    assertThat(page().record().operation()).isEqualTo("bring back");
  }

  @Test
  void theFirstColumnsAndTheKeyHaveRanges() {
    create("t.x");
    assertThat(TableWriter.ranged(page())).containsExactlyInAnyOrder(4, 1, 5, 6);
    VersionPage narrow =
        VersionPage.create(
            id,
            "t.x",
            FORM,
            TableSettings.DEFAULTS.with(TableSettings.RANGED_COLUMNS, 1),
            page().record().commit());
    assertThat(TableWriter.ranged(narrow)).containsExactlyInAnyOrder(4, 1);
  }

  @Test
  void aFailedCommitLeavesNoEntry() {
    create("t.x");
    long newest = core.refresh().number();
    assertThatThrownBy(
            () ->
                core.commit(
                    staging -> {
                      TableListing listing = staging.table("t.x").orElseThrow();
                      staging.put(staging.next(listing, "half"), listing.numbers(), false);
                      throw new IllegalStateException("in the middle");
                    },
                    NOTE))
        .hasMessage("in the middle");
    assertThat(core.refresh().number()).isEqualTo(newest);
    assertThat(page().version()).isZero();
  }
}
