package org.ysteron.internal.keys;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.rows.HiddenColumns;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;

/**
 * Reads the key columns of data files, and no others, and looks each row up. For one thread.
 *
 * <p>Which files, row groups and pages can hold one of the keys at all is found by a filter first:
 * by ranges, then by bloom filters.
 */
public final class KeyScan {
  /** With a key for so many rows, nearly every page has one, and looking which have not is vain. */
  private static final long CROWDED = 1000;

  private final ReadContext context;
  private final VersionPage table;
  private final Filter filter;

  public KeyScan(ReadContext context, VersionPage table, Filter filter) {
    this.context = context;
    this.table = table;
    this.filter = filter;
  }

  /** Takes rows whose key is in the index. */
  @FunctionalInterface
  public interface Visitor {
    /**
     * A row.
     *
     * @param found what the index has under its key, or -1
     * @param hash the first half of the hash of its key; 0 when a value of it is null
     * @param position its position in the file
     * @param serial its serial
     */
    void row(int found, long hash, int position, long serial);
  }

  /** Whether a file has a row that counts, of some or of all, with one of the keys. */
  public boolean holdsOne(FileEntry file, KeyIndex keys, Optional<RoaringBitmap> among) {
    boolean[] found = {false};
    scan(
        file,
        keys,
        (row, hash, position, serial) ->
            found[0] |= among.isEmpty() || among.get().contains(position));
    return found[0];
  }

  /** Visits the rows of a file that count and have one of the keys. */
  public void scan(FileEntry file, KeyIndex keys, Visitor visitor) {
    scan(file, keys, false, visitor);
  }

  /** Visits all rows of a file that count. */
  public void scanAll(FileEntry file, KeyIndex keys, Visitor visitor) {
    scan(file, keys, true, visitor);
  }

  private void scan(FileEntry file, KeyIndex keys, boolean all, Visitor visitor) {
    List<Field> columns = columns(keys.fieldIds());
    if (file.tellsSerials()) {
      columns.add(HiddenColumns.serial(table.schema()));
    }
    Schema wanted = Schema.stored(columns, List.of(), table.schema().lastId());
    KeyHash hash = new KeyHash();
    boolean crowded = keys.size() * CROWDED > file.rows();
    Filter skips = all || crowded ? everything(table) : filter;
    Candidates candidates = new Candidates(keys, all);
    FileScan.pruned(context, table, file, wanted, skips)
        .located(file)
        .each(
            rows -> {
              Vector[] key = rows.rows().vectors().toArray(new Vector[0]);
              int count = candidates.among(key, rows.size());
              for (int c = 0; c < count; c++) {
                int i = candidates.rows[c];
                boolean known = hash.hash(key, i);
                int found = known ? keys.find(hash.first(), hash.second()) : -1;
                if (found >= 0 || all) {
                  visitor.row(found, known ? hash.first() : 0, rows.position(i), rows.serial(i));
                }
              }
            });
  }

  /** The rows of a batch whose keys may be among some; or all. */
  private static final class Candidates {
    private final KeyIndex keys;
    private final boolean all;
    private long[] hashes = {};
    private int[] rows = {};

    Candidates(KeyIndex keys, boolean all) {
      this.keys = keys;
      this.all = all;
    }

    /** How many of the first rows are. */
    int among(Vector[] key, int size) {
      if (size > rows.length) {
        rows = new int[size];
        hashes = new long[size];
      }
      if (all) {
        Arrays.setAll(rows, i -> i);
        return size;
      }
      KeyHash.quick(key, size, hashes);
      int count = 0;
      for (int i = 0; i < size; i++) {
        rows[count] = i;
        count += keys.mayHave(hashes[i]) ? 1 : 0;
      }
      return count;
    }
  }

  /** Takes the keys of rows. */
  @FunctionalInterface
  public interface KeyVisitor {
    void key(KeyHash hash, long quick);
  }

  /**
   * Visits the keys of one part, by hash, of the rows of a file that count, but for those with a
   * null in them.
   */
  public void keys(
      FileEntry file, List<Integer> fieldIds, int part, int parts, KeyVisitor visitor) {
    Schema wanted = Schema.stored(columns(fieldIds), List.of(), table.schema().lastId());
    KeyHash hash = new KeyHash();
    FileScan.all(context, table, file, wanted)
        .each(
            batch -> {
              Vector[] key = batch.vectors().toArray(new Vector[0]);
              for (int i = 0; i < batch.size(); i++) {
                if (hash.hash(key, i) && Long.remainderUnsigned(hash.second(), parts) == part) {
                  visitor.key(hash, KeyHash.quick(key, i));
                }
              }
            });
  }

  private List<Field> columns(List<Integer> fieldIds) {
    List<Field> columns = new ArrayList<>();
    for (int id : fieldIds) {
      columns.add(table.schema().field(id).orElseThrow());
    }
    return columns;
  }

  /** A filter that every row passes. */
  public static Filter everything(VersionPage table) {
    return Filter.bind(Condition.all(), table.schema());
  }
}
