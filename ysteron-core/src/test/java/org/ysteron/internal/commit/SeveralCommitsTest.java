package org.ysteron.internal.commit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.Lake;
import org.ysteron.LakeView;
import org.ysteron.Table;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.transact.ChangeSet;
import org.ysteron.internal.transact.TableEdits;
import org.ysteron.option.Isolation;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.TableSettings;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.Committed;
import org.ysteron.report.TableFile;
import org.ysteron.report.TableInfo;
import org.ysteron.report.TableVersion;
import org.ysteron.store.MemoryStore;

/** Entries that hold several commits, as one process may unite them. */
class SeveralCommitsTest {
  private static final Schema SCHEMA = Schema.of(Field.of("n", Types.INTEGER));
  private final MemoryStore store = new MemoryStore();
  private final UUID id = UUID.randomUUID();
  private LakeCore core;
  private List<Committed> united;

  private static CommitNote by(String author, String label) {
    return CommitNote.standard().by(author, "test").withNote("of " + author).withLabel("by", label);
  }

  private Change create(UUID table, String name) {
    TableForm form = TableForm.of(SCHEMA, Layout.NONE);
    return TableEdits.create(table, name, form, TableSettings.DEFAULTS);
  }

  private ChangeSet appending(int... values) {
    ChangeSet set = new ChangeSet(core, core.refresh(), Isolation.SERIALIZABLE);
    var change = set.table(id, "t.x");
    var writer = change.writer(Instant.EPOCH);
    for (int value : values) {
      writer.add(value);
    }
    change.append(writer.finish());
    return set;
  }

  /** Entry 2 holds three commits: two to one table and one that makes another. */
  @BeforeEach
  void unite() {
    core =
        LakeCore.create(
            store, CommitNote.standard(), new LakeCore.Settings(LakeOptions.DEFAULTS.threads(1)));
    core.commit(create(id, "t.x"), CommitNote.standard());
    united =
        new CommitAttempt(
                core,
                List.of(
                    new CommitAttempt.Noted(appending(1, 2), by("ann", "a")),
                    new CommitAttempt.Noted(create(UUID.randomUUID(), "t.y"), by("bo", "b")),
                    new CommitAttempt.Noted(appending(3), by("cy", "c"))),
                core.newestSeen())
            .runAll();
  }

  @Test
  void eachHasItsOwnIdAuthorAndOrdinalAndAllHaveOneTime() {
    assertThat(united).extracting(c -> c.commit().entry()).containsOnly(2L);
    assertThat(united).extracting(c -> c.commit().ordinal()).containsExactly(2L, 3L, 4L);
    assertThat(united).extracting(c -> c.commit().author()).containsExactly("ann", "bo", "cy");
    assertThat(united)
        .extracting(c -> c.commit().time())
        .hasSameElementsAs(List.of(united.get(0).commit().time()));
    assertThat(united.get(0).versions()).containsEntry(id, 1L);
    assertThat(united.get(2).versions()).containsEntry(id, 2L);
    List<String> lines =
        new String(store.read("ledger/000/000/002"), StandardCharsets.UTF_8).lines().toList();
    assertThat(lines.get(0)).contains("\"first commit\":2");
    assertThat(lines).filteredOn(line -> line.startsWith("{\"commit\"")).hasSize(3);
  }

  @Test
  void aFreshReaderSeesEveryVersionAndCommit() {
    try (Lake lake = Lake.open(store)) {
      Table table = lake.table("t.x");
      assertThat(table.now().version()).isEqualTo(2);
      assertThat(table.at(1).scan().count()).isEqualTo(2);
      assertThat(table.at(2).scan().count()).isEqualTo(3);
      assertThat(table.history(5)).extracting(TableVersion::version).containsExactly(2L, 1L, 0L);
      List<CommitStamp> commits = lake.commits(10);
      assertThat(commits).extracting(CommitStamp::note).startsWith("of cy", "of bo", "of ann");
      assertThat(lake.commits(2)).hasSize(2);
      assertThat(lake.labels(commits.get(2))).containsEntry("by", "a");
      for (Committed one : united) {
        assertThat(lake.findCommit(one.commit().commitId(), 10)).contains(one.commit());
      }
    }
  }

  @Test
  void birthsAreTheOrdinalsOfTheirOwnCommits() {
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.table("t.x").now().files())
          .extracting(TableFile::oldestBirth, TableFile::newestBirth)
          .containsExactly(tuple(2L, 2L), tuple(4L, 4L));
      assertThat(lake.table("t.x").follow(1).poll().orElseThrow().rows().stream().count())
          .isEqualTo(1);
    }
  }

  @Test
  void theLakeAsOfAnInstantIsThatOfWholeEntries() {
    Instant time = united.get(0).commit().time();
    core.commit(create(UUID.randomUUID(), "t.z"), CommitNote.standard());
    try (Lake lake = Lake.open(store)) {
      LakeView then = lake.at(time);
      assertThat(then.tables()).extracting(TableInfo::name).containsExactly("t.x", "t.y");
      assertThat(then.table("t.x").version()).isEqualTo(2);
      assertThat(then.commit()).isEqualTo(united.get(2).commit());
      assertThat(lake.table("t.x").at(time).version()).isEqualTo(2);
      assertThat(lake.at(time.minusNanos(1000)).tables()).hasSize(1);
      assertThat(lake.at(time.minusNanos(1000)).table("t.x").version()).isZero();
    }
  }

  @Test
  void theNextCommitGoesOnCounting() {
    Committed next = commit(appending(4));
    assertThat(next.commit().ordinal()).isEqualTo(5);
    assertThat(next.commit().entry()).isEqualTo(3);
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.table("t.x").scan().count()).isEqualTo(4);
      assertThat(lake.commits(10)).hasSize(6);
    }
  }

  private Committed commit(ChangeSet set) {
    return set.commit(CommitNote.standard()).orElseThrow();
  }

  @Test
  void oneThatStartedBeforeMeetsAllOfThem() {
    // It has seen nothing of entry 2, and appends beside it.
    ChangeSet late = appending(9);
    commit(appending(5));
    assertThat(commit(late).versions()).containsEntry(id, 4L);
  }
}
