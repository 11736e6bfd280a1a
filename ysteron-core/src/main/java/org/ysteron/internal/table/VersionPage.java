package org.ysteron.internal.table;

import java.nio.ByteBuffer;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Stream;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Grouping;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.form.WiderColumns;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.layout.Layout;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.option.TableSettings;
import org.ysteron.report.CommitStamp;
import org.ysteron.report.TableVersion;

/**
 * All that a table is at one version, but for its past and its writers, which its head has.
 * Immutable.
 *
 * @param id the table's id for life
 * @param name its name then
 * @param form the columns, constraints and layout
 * @param schemaPage the page of its own that a large schema has once it was written
 * @param olderSchemas the root of the tree of schemas before this one
 * @param olderLayouts the root of the tree of layouts before this one
 * @param settings the settings
 * @param files the root of the tree of file entries
 * @param replaced when what is in it was replaced other than by changes
 * @param record this version
 * @param statistics the page of what an earlier version's values were like; empty for none
 * @param others members that a later program put there
 */
public record VersionPage(
    UUID id,
    String name,
    TableForm form,
    Optional<PageRef> schemaPage,
    PageTree.Root olderSchemas,
    PageTree.Root olderLayouts,
    TableSettings settings,
    PageTree.Root files,
    Replaced replaced,
    HistoryRecord record,
    Optional<PageRef> statistics,
    Map<String, Object> others)
    implements JsonPage.Content {

  /**
   * When the table's files were taken from elsewhere; whoever started before that cannot compare.
   *
   * @param rewound the ordinal of the newest rewind, 0 for none
   * @param published the ordinal of the newest publishing of a draft, 0 for none
   */
  public record Replaced(long rewound, long published) {
    static final Replaced NEVER = new Replaced(0, 0);
  }

  /** The first version of a new table. */
  public static VersionPage create(
      UUID id, String name, TableForm form, TableSettings settings, CommitStamp commit) {
    HistoryRecord record =
        HistoryRecord.of(
            0,
            commit,
            "create",
            TableVersion.Totals.NOTHING,
            form.schemaVersion(),
            HistoryRecord.Lives.NONE,
            0);
    return new VersionPage(
        id,
        name,
        form,
        Optional.empty(),
        PageTree.Root.EMPTY,
        PageTree.Root.EMPTY,
        settings,
        PageTree.Root.EMPTY,
        Replaced.NEVER,
        record,
        Optional.empty(),
        Map.of());
  }

  public long version() {
    return record.version();
  }

  /** The ordinal of the commit that made this version. */
  public long ordinal() {
    return record.commit().ordinal();
  }

  /** The columns. */
  public Schema schema() {
    return form.schema();
  }

  /** Counts the schemas, from 0. */
  public long schemaVersion() {
    return form.schemaVersion();
  }

  /** Counts the layouts, from 0. */
  public long layoutVersion() {
    return form.layoutVersion();
  }

  /** This page with the columns of another one of the same table, which its files are read by. */
  public VersionPage readBy(VersionPage other) {
    TableForm wider = other.form.withSchema(WiderColumns.of(other.schema(), schema()));
    return with(wider, other.olderSchemas, other.olderLayouts);
  }

  private VersionPage with(
      TableForm newForm, PageTree.Root newOlderSchemas, PageTree.Root newOlderLayouts) {
    HistoryRecord told = record.withSchema(newForm.schemaVersion());
    return remade(name, newForm, newOlderSchemas, newOlderLayouts, settings, files, told);
  }

  /** This page with other parts. */
  private VersionPage remade(
      String newName,
      TableForm newForm,
      PageTree.Root newOlderSchemas,
      PageTree.Root newOlderLayouts,
      TableSettings newSettings,
      PageTree.Root newFiles,
      HistoryRecord newRecord) {
    return new VersionPage(
        id,
        newName,
        newForm,
        schemaPage.filter(page -> newForm.schemaVersion() == form.schemaVersion()),
        newOlderSchemas,
        newOlderLayouts,
        newSettings,
        newFiles,
        replaced,
        newRecord,
        statistics,
        others);
  }

  /**
   * This version with another form; the one it has joins the older ones.
   *
   * @param numbers what the table gives out next
   */
  public VersionPage withForm(
      TableForm changed, TableNumbers numbers, PageStore pages, PageBatch batch) {
    return withForm(changed.after(form, numbers), pages, batch);
  }

  private VersionPage withForm(TableForm next, PageStore pages, PageBatch batch) {
    PageTree.Root schemas = olderSchemas;
    PageTree.Root layouts = olderLayouts;
    long last = version() - 1;
    if (next.schemaVersion() != form.schemaVersion()) {
      schemas =
          OlderForms.tree(FormRecord.Format.SCHEMAS, schemas, pages)
              .apply(OlderForms.put(form.schemaVersion(), last, form.schemaJson()), batch)
              .root();
    }
    if (next.layoutVersion() != form.layoutVersion()) {
      layouts =
          OlderForms.tree(FormRecord.Format.LAYOUTS, layouts, pages)
              .apply(OlderForms.put(form.layoutVersion(), last, form.layout().toJson()), batch)
              .root();
    }
    return with(next, schemas, layouts);
  }

  /** This page with other settings. */
  public VersionPage withSettings(TableSettings changed) {
    return remade(name, form, olderSchemas, olderLayouts, changed, files, record);
  }

  /** This version where it is now, as the newest state has it; empty when that does not know it. */
  public Optional<VersionPage> now(PageStore pages) {
    return pages
        .past()
        .version(id, version(), record.commit().commitId(), record.totals())
        .map(page -> read(page, pages));
  }

  /** Reads what hangs on this page; where that was copied since, on the copy. */
  private <T> T reading(PageStore pages, Function<VersionPage, T> what) {
    try {
      return what.apply(this);
    } catch (ExpiredException e) {
      return what.apply(now(pages).orElseThrow(() -> e));
    }
  }

  /** All layouts that the table has or had, by version. */
  public Map<Long, Layout> layouts(PageStore pages) {
    return reading(pages, page -> OlderForms.layouts(page, pages));
  }

  /** The forms before this one, whose layouts are none. */
  public List<TableForm> formsBefore(PageStore pages) {
    return reading(pages, page -> OlderForms.forms(page, pages));
  }

  /** This version without some of the forms before it, by their numbers. */
  public VersionPage withoutForms(
      Collection<Long> schemas, Collection<Long> layouts, PageStore pages, PageBatch batch) {
    return schemas.isEmpty() && layouts.isEmpty()
        ? this
        : remade(
            name,
            form,
            OlderForms.without(
                OlderForms.tree(FormRecord.Format.SCHEMAS, olderSchemas, pages), schemas, batch),
            OlderForms.without(
                OlderForms.tree(FormRecord.Format.LAYOUTS, olderLayouts, pages), layouts, batch),
            settings,
            files,
            record);
  }

  /** How many files there are of a layout; reads two paths of the file tree. */
  public long filesOfLayout(long layout, PageStore pages) {
    byte[] first = ByteBuffer.allocate(4).putInt((int) layout).array();
    byte[] behind = ByteBuffer.allocate(4).putInt((int) layout + 1).array();
    return reading(
        pages, page -> page.fileTree(pages).rank(behind) - page.fileTree(pages).rank(first));
  }

  /** Binds a condition, so that it prunes files by the layout of each. */
  public Filter filter(Condition condition, PageStore pages) {
    List<Grouping> groupings = new ArrayList<>();
    layouts(pages)
        .forEach((number, layout) -> groupings.addAll(layout.partitioners(number, schema())));
    return Filter.bind(condition.simplified(), schema(), groupings);
  }

  /** The files that may hold a row that passes, as far as their ranges tell. */
  public TreeCursor<FileEntry, FileSummary> files(Filter filter, PageStore pages) {
    return fileTree(pages)
        .cursor(
            summary -> filter.testFiles(summary) != Verdict.NONE,
            (leaf, at) -> filter.testFiles(FileFormat.rangesAt(leaf, at)) != Verdict.NONE);
  }

  /** The tree of file entries. */
  public PageTree<FileEntry, FileSummary> fileTree(PageStore pages) {
    return new PageTree<>(pages, FileFormat.INSTANCE, files)
        .orElsewhere(() -> now(pages).map(VersionPage::files));
  }

  /** The next version of this table, whose counts are to come. */
  public VersionPage next(CommitStamp commit, String operation) {
    HistoryRecord next =
        HistoryRecord.of(
            version() + 1,
            commit,
            operation,
            record.totals(),
            schemaVersion(),
            record.lives(),
            record.nextSerial());
    return remade(name, form, olderSchemas, olderLayouts, settings, files, next);
  }

  /** The next version as a transaction sees it that has not committed. */
  public VersionPage draft(CommitStamp start) {
    return next(draftStamp(start), "draft");
  }

  /** What stands for the commit that a transaction which has seen another one may become. */
  public static CommitStamp draftStamp(CommitStamp seen) {
    return new CommitStamp(
        seen.entry() + 1,
        seen.ordinal() + 1,
        seen.commitId(),
        seen.time(),
        seen.author(),
        seen.program(),
        "",
        "");
  }

  /**
   * This version with the rows, the form and the testing of keys of an earlier one. Name, counters
   * and other settings stay, and what the table was is among its older forms.
   *
   * @param changed the form it gets: the earlier version's, or what was made of it
   */
  public VersionPage rewound(
      VersionPage earlier, TableForm changed, PageStore pages, PageBatch batch) {
    VersionPage formed = withForm(changed, pages, batch);
    String keyTest = earlier.settings.word(TableSettings.KEY_TEST);
    return new VersionPage(
        id,
        name,
        formed.form,
        formed.schemaPage,
        formed.olderSchemas,
        formed.olderLayouts,
        settings.word(TableSettings.KEY_TEST).equals(keyTest)
            ? settings
            : settings.with(TableSettings.KEY_TEST, keyTest),
        earlier.files,
        new Replaced(ordinal(), replaced.published),
        formed.record.rewoundTo(earlier.record),
        statistics,
        others);
  }

  /** This page with what the values of a version were like. */
  public VersionPage measured(StatisticsPage found, PageBatch batch) {
    return referringTo(schemaPage, Optional.of(found.write(batch)));
  }

  /** What the values of this version, or of one before it, were like; empty for none. */
  public Optional<StatisticsPage> statisticsPage(PageStore pages) {
    return reading(pages, page -> page.statistics.map(ref -> StatisticsPage.read(ref, pages)));
  }

  /** This page with another name. */
  public VersionPage withName(String newName) {
    return remade(newName, form, olderSchemas, olderLayouts, settings, files, record);
  }

  /** This page with other files and what was done to get there. */
  VersionPage withFiles(PageTree.Root newFiles, HistoryRecord done) {
    return remade(name, form, olderSchemas, olderLayouts, settings, newFiles, done);
  }

  public static byte[] versionKey(long version) {
    return ByteBuffer.allocate(8).putLong(version).array();
  }

  @Override
  public Map<String, Object> toJson(PagePlace place) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("page", "version");
    json.put("table", id.toString());
    json.put("name", name);
    json.put("schema version", schemaVersion());
    if (schemaPage.isPresent()) {
      json.put("schema page", schemaPage.get().toText(place));
    } else {
      json.put("schema", form.schemaJson());
    }
    json.put("older schemas", olderSchemas.toText(place));
    json.put("layout version", layoutVersion());
    json.put("layout", form.layout().toJson());
    json.put("older layouts", olderLayouts.toText(place));
    json.put("settings", settings.values());
    json.put("files", files.toText(place));
    json.put("rewound", replaced.rewound);
    json.put("published", replaced.published);
    ByteOut own = new ByteOut();
    record.write(own, place);
    json.put("record", HexFormat.of().formatHex(own.toByteArray()));
    statistics.ifPresent(ref -> json.put("statistics", ref.toText(place)));
    json.putAll(others);
    return json;
  }

  /** Writes this page into a batch. */
  public PageRef write(PageBatch batch) {
    if (schemaPage.isEmpty() && SchemaPage.isWanted(form)) {
      Optional<PageRef> schema = Optional.of(SchemaPage.write(id, form, batch));
      return referringTo(schema, statistics).write(batch);
    }
    SchemaPage known = new SchemaPage(id, form);
    return JsonPage.write(
        this,
        page -> parse(page, ref -> known),
        batch,
        schemaPage.orElse(null),
        olderSchemas.ref(),
        olderLayouts.ref(),
        files.ref(),
        statistics.orElse(null));
  }

  /** This version with texts redacted. */
  public VersionPage redacted(HistoryRecord told) {
    return withFiles(files, told);
  }

  /** This version with rows erased: with no statistics, which may tell of them. */
  public VersionPage redacted(PageTree.Root less, HistoryRecord told) {
    return withFiles(less, told).referringTo(schemaPage, Optional.empty());
  }

  /** This version with some of its files only, and with no statistics. */
  public VersionPage left(PageTree.Root some, TableVersion.Totals holds) {
    return redacted(some, record.left(holds));
  }

  /**
   * A version that is what this one is, after others that are lost; whoever started before it
   * cannot compare.
   *
   * @param last the last of those
   * @param lastName what the table is called
   * @param missing from when on times are lost
   */
  public VersionPage inPlaceOf(long last, String lastName, CommitStamp commit, Instant missing) {
    HistoryRecord told =
        HistoryRecord.of(
                last + 1,
                commit,
                "mend",
                record.totals(),
                schemaVersion(),
                record.lives(),
                record.nextSerial())
            .rewoundTo(record)
            .afterGap(missing);
    return new VersionPage(
        id,
        lastName,
        form,
        schemaPage,
        olderSchemas,
        olderLayouts,
        settings,
        files,
        new Replaced(commit.ordinal(), replaced.published),
        told,
        statistics,
        others);
  }

  /** This page when versions before it are gone, the first of which was made at a time. */
  public VersionPage afterGap(Instant first) {
    return withFiles(files, record.afterGap(first));
  }

  /** This page, with copies of what hangs on it where copies have to be. */
  public VersionPage copied(PageCopies copies) {
    return new VersionPage(
        id,
        name,
        form,
        schemaPage.map(copies::plain),
        copies.tree(FormRecord.Format.SCHEMAS, olderSchemas, ref -> ref),
        copies.tree(FormRecord.Format.LAYOUTS, olderLayouts, ref -> ref),
        settings,
        copies.tree(FileFormat.INSTANCE, files, copies::plain),
        replaced,
        record,
        statistics.map(copies::plain),
        others);
  }

  /** The trees of schemas and layouts before this one's. */
  public List<PageTree<FormRecord, RecordFormat.Span>> olderForms(PageStore pages) {
    return List.of(
        OlderForms.tree(FormRecord.Format.SCHEMAS, olderSchemas, pages),
        OlderForms.tree(FormRecord.Format.LAYOUTS, olderLayouts, pages));
  }

  /** All references of this page but those of its trees. */
  public List<PageRef> plainPages() {
    return Stream.concat(schemaPage.stream(), statistics.stream()).toList();
  }

  private VersionPage referringTo(Optional<PageRef> schema, Optional<PageRef> measured) {
    return new VersionPage(
        id,
        name,
        form,
        schema,
        olderSchemas,
        olderLayouts,
        settings,
        files,
        replaced,
        record,
        measured,
        others);
  }

  /** Reads a page. */
  public static VersionPage read(PageRef ref, PageStore pages) {
    return JsonPage.read(
        ref,
        pages,
        VersionPage.class,
        page -> parse(page, schema -> SchemaPage.read(schema, pages)));
  }

  private static VersionPage parse(JsonPage page, Function<PageRef, SchemaPage> schemas) {
    JsonObject json = page.json("version");
    Optional<PageRef> schemaPage =
        json.has("schema page")
            ? Optional.of(PageRef.parse(json.text("schema page"), page.place()))
            : Optional.empty();
    return new VersionPage(
        json.uuid("table"),
        json.text("name"),
        schemaPage.isPresent()
            ? form(json, schemas.apply(schemaPage.get()))
            : TableForm.fromJson(
                json.object("schema"),
                json.number("schema version"),
                json.object("layout"),
                json.number("layout version")),
        schemaPage,
        page.root("older schemas"),
        page.root("older layouts"),
        TableSettings.stored(json.object("settings").members()),
        page.root("files"),
        new Replaced(json.number("rewound"), json.number("published")),
        HistoryRecord.read(new ByteIn(json.bytes("record")), page.place()),
        json.has("statistics")
            ? Optional.of(PageRef.parse(json.text("statistics"), page.place()))
            : Optional.empty(),
        json.except(
            "page",
            "table",
            "name",
            "schema version",
            "schema",
            "schema page",
            "older schemas",
            "layout version",
            "layout",
            "older layouts",
            "settings",
            "files",
            "rewound",
            "published",
            "record",
            "statistics"));
  }

  private static TableForm form(JsonObject json, SchemaPage schema) {
    if (!schema.table().equals(json.uuid("table"))
        || schema.form().schemaVersion() != json.number("schema version")) {
      throw new DamagedException(
          "A version refers to schema %d of table %s."
              .formatted(schema.form().schemaVersion(), schema.table()));
    }
    return schema
        .form()
        .withLayout(Layout.fromJson(json.object("layout")), json.number("layout version"));
  }
}
