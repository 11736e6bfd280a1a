package org.ysteron.internal.position;

import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.ConflictException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.LakeFeature;
import org.ysteron.internal.commit.LakeState;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.HoldRecord;
import org.ysteron.internal.lake.PositionRecord;
import org.ysteron.internal.lake.TableHistory;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.lake.UpkeepState;
import org.ysteron.internal.tree.Edit;

/**
 * Puts a position where a state of the lake is, or takes it away, if nobody else has done anything
 * to it since that state.
 *
 * @param start the state
 * @param name the position's name
 * @param versions the versions that count as read
 * @param limit how long it then holds what it has yet to read; null to take it away
 */
record PositionEdit(
    LakeState start, String name, Map<UUID, Long> versions, @Nullable Duration limit)
    implements Change {

  /** Leaves a position where it is, if nobody else has done anything to it. */
  static Change none(LakeState start, PositionRecord record) {
    return staging ->
        new PositionEdit(start, record.name(), Map.of(), record.limit())
            .checkUnmoved(
                Optional.of(record),
                staging.base().page().upkeep().position(record.name(), staging.pages()));
  }

  @Override
  public void apply(Staging staging) {
    UpkeepState upkeep = staging.base().page().upkeep();
    Optional<PositionRecord> before = start.page().upkeep().position(name, staging.pages());
    checkUnmoved(before, upkeep.position(name, staging.pages()));
    checkKept(staging);
    Optional<PositionRecord> next = next(before, staging);
    Edit<PositionRecord> edit =
        next.map(record -> Edit.put(record.key(), record))
            .orElseGet(() -> Edit.remove(before.orElseThrow().key()));
    byte[] held = HoldRecord.key(HoldRecord.POSITION, name);
    Edit<HoldRecord> hold =
        versions.isEmpty()
            ? Edit.remove(held)
            : Edit.put(held, HoldRecord.position(next.orElseThrow()));
    staging.edit(
        LakeFeature.HOLDS,
        (lake, own) -> lake.with(lake.upkeep().withHold(hold, staging.pages(), own)));
    staging.edit(
        LakeFeature.POSITIONS,
        (lake, own) -> {
          checkUnmoved(before, lake.upkeep().position(name, staging.pages()));
          return lake.with(lake.upkeep().withPosition(edit, staging.pages(), own));
        });
  }

  private Optional<PositionRecord> next(Optional<PositionRecord> before, Staging staging) {
    if (limit == null) {
      return Optional.empty();
    }
    return Optional.of(
        before
            .map(record -> record.to(start.number(), versions, limit, staging.commit().time()))
            .orElseGet(
                () ->
                    PositionRecord.of(
                        name, start.number(), versions, limit, staging.commit().time())));
  }

  private void checkUnmoved(Optional<PositionRecord> before, Optional<PositionRecord> now) {
    if (!before.equals(now)) {
      throw new ConflictException(
          ConflictException.Kind.POSITION_MOVED,
          "Position %s was %s by another commit since entry %d. Nothing was changed; read the changes again, from where it stands now."
              .formatted(
                  name,
                  now.isEmpty() ? "dropped" : before.isEmpty() ? "set" : "moved",
                  start.number()));
    }
  }

  /** What it then holds has to be there. */
  private void checkKept(Staging staging) {
    versions.forEach(
        (table, version) -> {
          Optional<TableListing> listing = staging.base().page().table(table, staging.pages());
          boolean isKept =
              listing
                  .filter(found -> TableHistory.isKept(found, version, staging.pages()))
                  .isPresent();
          if (!isKept) {
            throw new ConflictException(
                ConflictException.Kind.SNAPSHOT_TOO_OLD,
                "Version %d of table %s, to which position %s was to be moved, has expired meanwhile. Nothing was changed; run it again on the newest version."
                    .formatted(
                        version, listing.map(TableListing::name).orElse(table.toString()), name));
          }
        });
  }
}
