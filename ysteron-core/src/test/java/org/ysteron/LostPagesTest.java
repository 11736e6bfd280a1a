package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Types;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.lake.TableHead;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.FileFormat;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.option.ChangeStyle;
import org.ysteron.option.LakeOptions;
import org.ysteron.option.Retention;
import org.ysteron.proof.CheckDepth;
import org.ysteron.proof.MendReport;
import org.ysteron.store.MemoryStore;

/** What a mend lets go with lost pages is told, and is as little as there can be. */
class LostPagesTest {
  private final MemoryStore store = new MemoryStore();
  private long rows;

  /**
   * Versions 1 and 2 have a mask in a page; 3 to 6 a named writer and its rows; 7 has statistics; 8
   * to 10 a file each.
   */
  @BeforeEach
  void makeLake() {
    try (Lake lake = Lake.create(store)) {
      Table table = lake.createTable("t.x", Schema.of(Field.of("k", Types.INTEGER)));
      add(table, 0, 3000);
      table.delete().whereRow(row -> row.getInt("k") % 3 == 1).style(ChangeStyle.MASK).run();
      NamedWriter writer = table.openWriter("logger");
      for (int number = 0; number < 3; number++) {
        int k = 10_000 + number;
        writer.append(number, to -> to.add(k));
      }
      table.bookmark("mark", 4);
      table.measure();
      for (int file = 0; file < 3; file++) {
        add(table, 20_000 + 1000 * file, 1000);
      }
      rows = table.scan().count();
    }
  }

  private static void add(Table table, int from, int count) {
    try (Append append = table.append()) {
      for (int k = from; k < from + count; k++) {
        append.add(k);
      }
      append.commit();
    }
  }

  private enum Page {
    MASK,
    STATISTICS,
    WRITERS,
    LEAF,
    VERSION,
    BOOKMARKED
  }

  private List<PageRef> refs(Page page) {
    try (LakeCore core =
        LakeCore.open(store, new LakeCore.Settings(LakeOptions.DEFAULTS.threads(0)))) {
      PageStore pages = core.pages();
      TableListing table = core.refresh().page().tables(false, pages).get(0);
      VersionPage version = VersionPage.read(table.page(), pages);
      TableHead head = TableHead.read(table.head(), pages);
      return switch (page) {
        case MASK -> {
          List<PageRef> masks = new ArrayList<>();
          var files = version.fileTree(pages).cursor();
          while (files.next()) {
            masks.addAll(FileFormat.INSTANCE.references(files.value()));
          }
          yield masks;
        }
        case STATISTICS -> version.plainPages();
        case WRITERS -> List.of(head.writers().ref());
        case LEAF -> List.of(version.files().ref());
        case VERSION -> List.of(table.page());
        case BOOKMARKED -> List.of(head.records(pages).get(4).page().orElseThrow());
      };
    }
  }

  private void lose(Page page) {
    List<PageRef> refs = refs(page);
    assertThat(refs).isNotEmpty();
    for (PageRef ref : refs) {
      byte[] bytes = store.read(ref.home().objectName());
      Arrays.fill(bytes, (int) ref.position(), (int) ref.position() + ref.length(), (byte) 7);
      store.delete(ref.home().objectName());
      store.createIfAbsent(ref.home().objectName(), bytes);
    }
  }

  private MendReport mended() {
    try (Lake lake = Lake.open(store)) {
      MendReport would = lake.mend().dryRun();
      MendReport did = lake.mend().run();
      assertThat(would.rows()).isEqualTo(did.rows());
      assertThat(would.versions()).isEqualTo(did.versions());
      assertThat(would.forgotten()).isEqualTo(did.forgotten());
      Table table = lake.table("t.x");
      assertThat(table.scan().rows().stream().count()).isEqualTo(rows - did.rows());
      assertThat(table.scan().count()).isEqualTo(rows - did.rows());
      add(table, 50_000, 5);
      table.compact().full().run();
      table.expire().keeping(Retention.EVERYTHING.andNewest(1)).run();
      lake.sweep().now().withEntries().run();
      assertThat(lake.check().depth(CheckDepth.ROWS).run().findings()).isEmpty();
      return did;
    }
  }

  @Test
  void aFileWhoseMaskIsLostIsTakenOut() {
    lose(Page.MASK);
    MendReport report = mended();
    assertThat(report.lost()).hasSize(1);
    assertThat(report.rows()).isEqualTo(2000);
    // Versions before the newest that had it cannot be read either.
    assertThat(report.versions()).isNotEmpty();
  }

  @Test
  void lostStatisticsAreInNobodysWay() {
    lose(Page.STATISTICS);
    MendReport report = mended();
    assertThat(report.rows()).isZero();
    assertThat(report.versions()).isEmpty();
    assertThat(report.forgotten())
        .containsExactly("The column statistics of table t.x are lost. Measure it again.");
  }

  @Test
  void ofALostLeafTheVersionBeforeIsTakenWhenItHasMore() {
    lose(Page.LEAF);
    assertThat(mended().rows()).isEqualTo(1000);
  }

  @Test
  void rowsThatGoWithTheNewestVersionAreTold() {
    lose(Page.VERSION);
    MendReport report = mended();
    assertThat(report.versions()).hasSize(1);
    assertThat(report.rows()).isEqualTo(1000);
  }

  @Test
  void namedWritersThatAreForgottenAreTold() {
    lose(Page.WRITERS);
    MendReport report = mended();
    assertThat(report.rows()).isZero();
    assertThat(report.forgotten()).hasSize(1);
    assertThat(report.forgotten().get(0)).contains("named writers of table t.x are lost");
  }

  @Test
  void aBookmarkOfALostVersionGoesWithIt() {
    lose(Page.BOOKMARKED);
    MendReport report = mended();
    assertThat(report.rows()).isZero();
    assertThat(report.forgotten())
        .containsExactly("The bookmark mark of version 4 of table t.x, which is lost.");
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.bookmarks()).isEmpty();
    }
  }

  @Test
  void aMendLooksAsDeepAsAnyCheckThatAdvisesIt() {
    String file = StoreContents.names(store, "data").first();
    byte[] bytes = store.read(file);
    bytes[40] ^= 1;
    store.delete(file);
    store.createIfAbsent(file, bytes);
    try (Lake lake = Lake.open(store)) {
      assertThat(lake.check().depth(CheckDepth.BYTES).run().findings()).isNotEmpty();
      assertThat(lake.mend().dryRun().lost()).isNotEmpty();
      assertThat(lake.table("t.x").scan().where(column("k").lessThan(0)).count()).isZero();
    }
  }
}
