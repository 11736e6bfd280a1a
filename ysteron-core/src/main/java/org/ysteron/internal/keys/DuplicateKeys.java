package org.ysteron.internal.keys;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Consumer;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.FileSummary;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.TreeCursor;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;
import org.ysteron.report.DuplicateRow;

/**
 * Finds rows that share their primary key with another row, which can be where the table's setting
 * does not have every write test keys. Reads the key columns once when there are none, in parts of
 * some million keys. For one thread.
 */
public final class DuplicateKeys {
  private final ReadContext context;
  private final VersionPage table;
  private final Schema key;
  private final int keySize;

  private DuplicateKeys(ReadContext context, VersionPage table) {
    this.context = context;
    this.table = table;
    List<Field> columns = new ArrayList<>();
    for (int id : table.schema().keyIds()) {
      columns.add(table.schema().field(id).orElseThrow());
    }
    this.key = Schema.stored(columns, List.of(), table.schema().lastId());
    this.keySize = columns.size();
  }

  /**
   * The rows, those of one key behind one another, in the order of their serials.
   *
   * @param most so many keys at most
   * @throws InvalidInputException when the table has no primary key
   */
  public static List<DuplicateRow> of(ReadContext context, VersionPage table, int most) {
    if (table.schema().key().isEmpty()) {
      throw new InvalidInputException(
          "Table %s has no primary key, so it has no duplicates.".formatted(table.name()));
    }
    DuplicateKeys duplicates = new DuplicateKeys(context, table);
    int parts = (int) (table.record().totals().rows() / (2L * KeyIndex.most())) + 1;
    List<DuplicateRow> found = new ArrayList<>();
    int keys = 0;
    for (int part = 0; part < parts && keys < most; part++) {
      Map<Integer, List<DuplicateRow>> byKey = duplicates.part(part, parts, most - keys);
      keys += byKey.size();
      byKey.values().forEach(found::addAll);
    }
    return found;
  }

  private Map<Integer, List<DuplicateRow>> part(int part, int parts, int most) {
    long[] candidates = candidates(part, parts);
    Map<Integer, List<DuplicateRow>> byKey = new LinkedHashMap<>();
    if (candidates.length == 0) {
      return byKey;
    }
    KeyIndex all = new KeyIndex(table.schema().keyIds(), candidates.length);
    KeyIndex shared = new KeyIndex(table.schema().keyIds(), 16);
    each(
        part,
        parts,
        (hash, quick) -> {
          if (Arrays.binarySearch(candidates, hash.first()) >= 0
              && all.putIfAbsent(hash.first(), hash.second(), 0) >= 0
              && shared.size() < most) {
            shared.putIfAbsent(hash.first(), hash.second(), shared.size());
          }
        });
    if (shared.size() > 0) {
      each(file -> take(file, shared, byKey));
      byKey.values().forEach(rows -> rows.sort(Comparator.comparingLong(DuplicateRow::serial)));
    }
    return byKey;
  }

  /** The first halves of hashes that several rows have. */
  private long[] candidates(int part, int parts) {
    long expected = table.record().totals().rows() / parts;
    RepeatedHashes hashes =
        new RepeatedHashes((int) Math.min(expected + expected / 8, 2L * KeyIndex.most()));
    each(part, parts, (hash, quick) -> hashes.add(hash.first()));
    return hashes.repeated();
  }

  private void each(int part, int parts, KeyScan.KeyVisitor visitor) {
    List<Integer> ids = table.schema().keyIds();
    KeyScan keys = new KeyScan(context, table, KeyScan.everything(table));
    each(file -> keys.keys(file, ids, part, parts, visitor));
  }

  private void take(FileEntry file, KeyIndex shared, Map<Integer, List<DuplicateRow>> byKey) {
    FileScan.all(context, table, file, HiddenColumns.with(key))
        .located(file)
        .each(rows -> take(rows, shared, byKey));
  }

  private void take(FileRows rows, KeyIndex shared, Map<Integer, List<DuplicateRow>> byKey) {
    KeyHash hash = new KeyHash();
    Vector[] columns = rows.rows().vectors().toArray(new Vector[0]);
    for (int i = 0; i < rows.size(); i++) {
      int at = hash.hash(columns, i) ? shared.find(hash.first(), hash.second()) : -1;
      if (at >= 0) {
        Object[] values = new Object[keySize];
        for (int c = 0; c < keySize; c++) {
          values[c] = columns[c].get(i);
        }
        byKey
            .computeIfAbsent(at, k -> new ArrayList<>())
            .add(new DuplicateRow(Row.of(key.struct(), values), rows.serial(i), rows.birth(i)));
      }
    }
  }

  private void each(Consumer<FileEntry> visitor) {
    Watch.Step step = context.watch().step("compare keys of files", Progress.Unit.FILES);
    TreeCursor<FileEntry, FileSummary> files = table.fileTree(context.pages()).cursor();
    while (files.next()) {
      visitor.accept(files.value());
      step.add(1);
    }
  }
}
