package org.ysteron.internal.compare;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.changes.BatchRows;
import org.ysteron.internal.changes.ChangedRows;
import org.ysteron.internal.changes.Comparison;
import org.ysteron.internal.changes.RowChanges;
import org.ysteron.internal.changes.RowsBefore;
import org.ysteron.internal.keys.KeyHash;
import org.ysteron.internal.keys.KeyIndex;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;

/**
 * Deleted and inserted rows with the same primary key, as updated ones. So many deleted rows as fit
 * into memory are looked at together; inserted ones are read once for each part of them. For one
 * thread.
 */
final class KeyPairs {
  private final Comparison comparison;
  private final Schema keys;
  private final Schema wanted;
  private final int[] keyAt;
  private final List<Part> parts = new ArrayList<>();
  private final Map<FileEntry, RoaringBitmap> deleted = new LinkedHashMap<>();
  private final Map<FileEntry, RoaringBitmap> inserted = new LinkedHashMap<>();

  /** Deleted rows, each of which has an inserted one. */
  private record Part(
      Map<FileEntry, RoaringBitmap> deleted, Map<FileEntry, RoaringBitmap> inserted) {}

  private KeyPairs(Comparison comparison) {
    this.comparison = comparison;
    Schema schema = comparison.to().schema();
    if (schema.key().isEmpty()) {
      throw new InvalidInputException(
          "Table %s has no primary key, so its rows can be paired by their serials only."
              .formatted(comparison.to().name()));
    }
    this.keys = schema.select(schema.key());
    List<Field> fields = new ArrayList<>(comparison.shown().columns());
    this.keyAt = new int[keys.columns().size()];
    for (int i = 0; i < keyAt.length; i++) {
      Field key = keys.columns().get(i);
      keyAt[i] = fields.indexOf(key);
      if (keyAt[i] < 0) {
        keyAt[i] = fields.size();
        fields.add(key);
      }
    }
    this.wanted = Schema.stored(fields, List.of(), schema.lastId());
  }

  /** Finds them among some changes. */
  static KeyPairs find(Comparison comparison, RowChanges changes) {
    KeyPairs pairs = new KeyPairs(comparison);
    long bytes = 64L * (comparison.shown().columns().size() + 1);
    long most = Math.max(1, Math.min(KeyIndex.most(), comparison.memory() / bytes));
    Map<FileEntry, RoaringBitmap> part = new LinkedHashMap<>();
    long[] room = {most};
    changes
        .deleted()
        .forEach(
            (file, rows) -> {
              RoaringBitmap left = rows.clone();
              while (!left.isEmpty()) {
                RoaringBitmap some = left.limit((int) room[0]);
                part.put(file, some);
                room[0] -= some.getLongCardinality();
                left.andNot(some);
                if (room[0] == 0) {
                  pairs.pair(part, changes.inserted());
                  part.clear();
                  room[0] = most;
                }
              }
            });
    if (!part.isEmpty()) {
      pairs.pair(part, changes.inserted());
    }
    return pairs;
  }

  /** What is left of changes. */
  RowChanges rest(RowChanges changes) {
    return changes.without(deleted, inserted);
  }

  long count() {
    return RowChanges.rows(inserted);
  }

  /** The pairs, part by part. */
  ChangedRows.Paired all() {
    List<Supplier<ChangedRows.Pairs>> all = new ArrayList<>();
    for (Part part : parts) {
      all.add(
          () ->
              new ChangedRows.Pairs(scan(comparison.to(), part.inserted, wanted), new ByKey(part)));
    }
    return new ChangedRows.Paired(deleted, all);
  }

  private FilesScan scan(
      VersionPage version, Map<FileEntry, RoaringBitmap> places, Schema columns) {
    return FilesScan.told(comparison.context(), version, places, columns);
  }

  private void pair(Map<FileEntry, RoaringBitmap> old, Map<FileEntry, RoaringBitmap> now) {
    KeyIndex index = new KeyIndex(ids(), 1024);
    KeyHash hash = new KeyHash();
    List<FileEntry> files = new ArrayList<>();
    List<int[]> places = new ArrayList<>();
    scan(comparison.from(), old, keys)
        .each(
            rows -> {
              Vector[] key = rows.rows().vectors().toArray(Vector[]::new);
              files.add(rows.file());
              for (int i = 0; i < rows.size(); i++) {
                if (hash.hash(key, i)
                    && index.putIfAbsent(hash.first(), hash.second(), places.size()) < 0) {
                  places.add(new int[] {files.size() - 1, rows.position(i)});
                }
              }
            });
    Part part = new Part(new LinkedHashMap<>(), new LinkedHashMap<>());
    BitSet used = new BitSet();
    Map<FileEntry, RoaringBitmap> unpaired = RowChanges.rest(now, inserted);
    scan(comparison.to(), unpaired, keys)
        .each(
            rows -> {
              Vector[] key = rows.rows().vectors().toArray(Vector[]::new);
              for (int i = 0; i < rows.size(); i++) {
                int row = hash.hash(key, i) ? index.find(hash.first(), hash.second()) : -1;
                if (row >= 0 && !used.get(row)) {
                  used.set(row);
                  int[] place = places.get(row);
                  add(files.get(place[0]), place[1], part.deleted, deleted);
                  add(rows.file(), rows.position(i), part.inserted, inserted);
                }
              }
            });
    if (!used.isEmpty()) {
      parts.add(part);
    }
  }

  private List<Integer> ids() {
    return keys.columns().stream().map(Field::id).toList();
  }

  private static void add(
      FileEntry file,
      int position,
      Map<FileEntry, RoaringBitmap> part,
      Map<FileEntry, RoaringBitmap> all) {
    part.computeIfAbsent(file, f -> new RoaringBitmap()).add(position);
    all.computeIfAbsent(file, f -> new RoaringBitmap()).add(position);
  }

  /** The deleted rows of a part in memory. */
  private final class ByKey implements RowsBefore {
    private final BatchRows rows = new BatchRows();
    private final KeyIndex index = new KeyIndex(ids(), 1024);
    private final KeyHash hash = new KeyHash();
    private final List<int[]> places = new ArrayList<>();

    ByKey(Part part) {
      scan(comparison.from(), part.deleted, wanted).each(read -> add(read.rows()));
    }

    private void add(Batch read) {
      int batch = rows.add(read);
      Vector[] key = key(read);
      for (int i = 0; i < read.size(); i++) {
        if (hash.hash(key, i)) {
          int unused = index.put(hash.first(), hash.second(), places.size());
          places.add(new int[] {batch, i});
        }
      }
    }

    private Vector[] key(Batch of) {
      Vector[] key = new Vector[keyAt.length];
      for (int i = 0; i < key.length; i++) {
        key[i] = of.vectors().get(keyAt[i]);
      }
      return key;
    }

    @Override
    public Batch of(FileRows after, long[] serials) {
      int[] batch = new int[after.size()];
      int[] position = new int[after.size()];
      Vector[] key = key(after.rows());
      for (int i = 0; i < batch.length; i++) {
        boolean unused = hash.hash(key, i);
        int[] place = places.get(index.find(hash.first(), hash.second()));
        batch[i] = place[0];
        position[i] = place[1];
      }
      return rows.rows(batch, position);
    }
  }
}
