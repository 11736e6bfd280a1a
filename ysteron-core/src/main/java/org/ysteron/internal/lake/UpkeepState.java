package org.ysteron.internal.lake;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.table.JsonPage;
import org.ysteron.internal.table.RecordFormat;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.internal.tree.PageCopies;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageStore;
import org.ysteron.internal.tree.PageTree;
import org.ysteron.internal.tree.TreeCursor;

/**
 * What upkeep, drafts and readers remember in the lake page. What of it this program does not write
 * it keeps. Immutable.
 *
 * @param horizon commits that started below it are refused
 * @param floor entries below it may go
 * @param floorSet the entry that set the floor
 * @param swept names below it were looked at
 * @param pagesFrom no page object of the lake's own with a lesser start is referred to
 * @param free the root of the tree of objects that nothing needs
 * @param holds the root of the tree of what keeps versions
 * @param drafts the root of the tree of drafts
 * @param positions the root of the tree of readers' positions
 * @param erasures the root of the tree of erasures that are under way
 * @param waiting the floors that are not known to be carried out, the least first
 * @param settings what is done when, for the lake and for tables that say nothing else
 */
public record UpkeepState(
    long horizon,
    long floor,
    long floorSet,
    long swept,
    long pagesFrom,
    PageTree.Root free,
    PageTree.Root holds,
    PageTree.Root drafts,
    PageTree.Root positions,
    PageTree.Root erasures,
    List<WaitingFloor> waiting,
    Map<String, Object> settings) {
  private static final String FLOOR_SET = "floor set";
  private static final String PAGES_FROM = "pages from";
  private static final String WAITING = "floors waiting";
  private static final String SETTINGS = "settings";

  static final UpkeepState NONE =
      new UpkeepState(
          0,
          0,
          0,
          0,
          0,
          PageTree.Root.EMPTY,
          PageTree.Root.EMPTY,
          PageTree.Root.EMPTY,
          PageTree.Root.EMPTY,
          PageTree.Root.EMPTY,
          List.of(),
          Map.of());

  /** The names of the members that this is in the lake page. */
  static final List<String> MEMBERS =
      List.of(
          "horizon",
          "floor",
          FLOOR_SET,
          "swept to",
          PAGES_FROM,
          "free",
          "holds",
          "drafts",
          "positions",
          "erasures",
          WAITING,
          SETTINGS);

  void toJson(Map<String, Object> json, PagePlace place) {
    json.put("horizon", horizon);
    json.put("floor", floor);
    json.put("swept to", swept);
    json.put("free", free.toText(place));
    json.put("holds", holds.toText(place));
    json.put("drafts", drafts.toText(place));
    json.put("positions", positions.toText(place));
    json.put("erasures", erasures.toText(place));
    if (floorSet > 0) {
      json.put(FLOOR_SET, floorSet);
    }
    if (pagesFrom > 0) {
      json.put(PAGES_FROM, pagesFrom);
    }
    if (!waiting.isEmpty()) {
      json.put(WAITING, waiting.stream().map(WaitingFloor::toJson).toList());
    }
    if (!settings.isEmpty()) {
      json.put(SETTINGS, settings);
    }
  }

  static UpkeepState fromJson(JsonPage page, JsonObject json) {
    Map<String, Object> settings = new TreeMap<>();
    if (json.has(SETTINGS)) {
      json.object(SETTINGS).members().forEach((name, value) -> settings.put((String) name, value));
    }
    return new UpkeepState(
        json.number("horizon"),
        json.number("floor"),
        json.has(FLOOR_SET) ? json.number(FLOOR_SET) : 0,
        json.number("swept to"),
        json.has(PAGES_FROM) ? json.number(PAGES_FROM) : 0,
        page.root("free"),
        page.root("holds"),
        page.root("drafts"),
        page.root("positions"),
        page.root("erasures"),
        json.has(WAITING)
            ? json.objects(WAITING).stream().map(WaitingFloor::fromJson).toList()
            : List.of(),
        settings);
  }

  /** Whether there are drafts, which this program would not take along. */
  public boolean hasDrafts() {
    return drafts.ref() != null;
  }

  List<PageTree.Root> roots() {
    return List.of(free, holds, drafts, positions, erasures);
  }

  /** With another horizon. */
  public UpkeepState withHorizon(long number) {
    return with(number, floor, floorSet, swept, pagesFrom, free, holds, settings);
  }

  /** With another floor. */
  public UpkeepState withFloor(WaitingFloor set) {
    return new UpkeepState(
        horizon,
        set.floor(),
        set.set(),
        swept,
        pagesFrom,
        free,
        holds,
        drafts,
        positions,
        erasures,
        WaitingFloor.with(waiting, set, horizon),
        settings);
  }

  /** The greatest floor that may be carried out; empty for none. */
  public Optional<WaitingFloor> dueFloor() {
    return waiting.stream().filter(set -> set.set() < horizon).reduce((one, later) -> later);
  }

  /** When names below a number were looked at. */
  public UpkeepState withSwept(long number) {
    return with(horizon, floor, floorSet, number, pagesFrom, free, holds, settings);
  }

  /** When no object of pages of the lake's own with a start below a number is referred to. */
  public UpkeepState withPagesFrom(long number) {
    return with(horizon, floor, floorSet, swept, number, free, holds, settings);
  }

  /** With other settings. */
  public UpkeepState withSettings(Map<String, Object> changed) {
    return with(horizon, floor, floorSet, swept, pagesFrom, free, holds, changed);
  }

  /** With more that is free, or less. */
  public UpkeepState withFree(List<Edit<FreeObject>> edits, PageStore pages, PageBatch batch) {
    PageTree.Root edited = freeTree(pages).apply(ordered(edits), batch).root();
    return with(horizon, floor, floorSet, swept, pagesFrom, edited, holds, settings);
  }

  /** With a hold more, or less. */
  public UpkeepState withHold(Edit<HoldRecord> edit, PageStore pages, PageBatch batch) {
    PageTree.Root edited = holdTree(pages).apply(List.of(edit), batch).root();
    return with(horizon, floor, floorSet, swept, pagesFrom, free, edited, settings);
  }

  /** With a position more, other or less; its hold is another edit. */
  public UpkeepState withPosition(Edit<PositionRecord> edit, PageStore pages, PageBatch batch) {
    PageTree.Root edited = positionTree(pages).apply(List.of(edit), batch).root();
    return new UpkeepState(
        horizon, floor, floorSet, swept, pagesFrom, free, holds, drafts, edited, erasures, waiting,
        settings);
  }

  /** With an erasure that begins, goes on or ends. */
  public UpkeepState withErasure(Edit<ErasureRecord> edit, PageStore pages, PageBatch batch) {
    PageTree.Root edited = erasureTree(pages).apply(List.of(edit), batch).root();
    return new UpkeepState(
        horizon, floor, floorSet, swept, pagesFrom, free, holds, drafts, positions, edited, waiting,
        settings);
  }

  private static <V> List<Edit<V>> ordered(List<Edit<V>> edits) {
    List<Edit<V>> ordered = new ArrayList<>(edits);
    ordered.sort((a, b) -> Arrays.compareUnsigned(a.key(), b.key()));
    return ordered;
  }

  private UpkeepState with(
      long horizonNow,
      long floorNow,
      long floorSetNow,
      long sweptNow,
      long pagesFromNow,
      PageTree.Root freeNow,
      PageTree.Root holdsNow,
      Map<String, Object> settingsNow) {
    return new UpkeepState(
        horizonNow,
        floorNow,
        floorSetNow,
        sweptNow,
        pagesFromNow,
        freeNow,
        holdsNow,
        drafts,
        positions,
        erasures,
        waiting,
        settingsNow);
  }

  /** The tree of objects that nothing needs. */
  public PageTree<FreeObject, RecordFormat.Span> freeTree(PageStore pages) {
    return new PageTree<>(pages, FreeObject.Format.INSTANCE, free);
  }

  private PageTree<HoldRecord, RecordFormat.Span> holdTree(PageStore pages) {
    return new PageTree<>(pages, HoldRecord.Format.INSTANCE, holds);
  }

  private PageTree<PositionRecord, RecordFormat.Span> positionTree(PageStore pages) {
    return new PageTree<>(pages, PositionRecord.Format.INSTANCE, positions);
  }

  private PageTree<ErasureRecord, RecordFormat.Span> erasureTree(PageStore pages) {
    return new PageTree<>(pages, ErasureRecord.Format.INSTANCE, erasures);
  }

  /** All that keeps versions, by kind and name. */
  public List<HoldRecord> holds(PageStore pages) {
    return all(holdTree(pages));
  }

  /** All positions of readers, by name. */
  public List<PositionRecord> positions(PageStore pages) {
    return all(positionTree(pages));
  }

  /** The position of a name. */
  public Optional<PositionRecord> position(String name, PageStore pages) {
    return positionTree(pages).get(PositionRecord.key(name));
  }

  /** The erasures that are under way. */
  public List<ErasureRecord> erasures(PageStore pages) {
    return all(erasureTree(pages));
  }

  private static <V> List<V> all(PageTree<V, ?> tree) {
    List<V> all = new ArrayList<>();
    TreeCursor<V, ?> cursor = tree.cursor();
    while (cursor.next()) {
      all.add(cursor.value());
    }
    return all;
  }

  /** The hold of a name. */
  public Optional<HoldRecord> hold(int kind, String name, PageStore pages) {
    return holdTree(pages).get(HoldRecord.key(kind, name));
  }

  /** This, with copies of the pages of its trees where copies have to be. */
  UpkeepState copied(PageCopies copies) {
    return new UpkeepState(
        horizon,
        floor,
        floorSet,
        swept,
        pagesFrom,
        copies.tree(FreeObject.Format.INSTANCE, free, ref -> ref),
        copies.tree(HoldRecord.Format.INSTANCE, holds, ref -> ref),
        drafts,
        copies.tree(PositionRecord.Format.INSTANCE, positions, ref -> ref),
        copies.tree(ErasureRecord.Format.INSTANCE, erasures, ref -> ref),
        waiting,
        settings);
  }
}
