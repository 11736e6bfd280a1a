package org.ysteron.change;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Vector;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Filter;
import org.ysteron.expr.Verdict;
import org.ysteron.table.FileEntry;
import org.ysteron.table.FileFormat;
import org.ysteron.table.FileSummary;
import org.ysteron.table.VersionPage;
import org.ysteron.tree.TreeCursor;

/**
 * Keys that an update gives to rows: no two rows of the table may have one of them when it is done.
 * For one thread.
 */
final class NewKeys {
  private final TableChange table;
  private final List<Field> key = new ArrayList<>();
  private final KeyHash hash = new KeyHash();
  private KeyIndex index;
  private KeyBounds bounds;

  NewKeys(TableChange table) {
    this.table = table;
    for (int id : table.draft().schema().keyIds()) {
      key.add(table.draft().schema().field(id).orElseThrow());
    }
  }

  /** Says that keys will change. */
  void expect() {
    index = new KeyIndex(table.draft().schema().keyIds(), 1024);
    bounds = new KeyBounds(key);
  }

  private Vector[] vectors(Batch batch) {
    return key.stream().map(field -> batch.vector(field.name())).toArray(Vector[]::new);
  }

  /** Rows as they are after the update. */
  void add(Batch rows) {
    if (index == null) {
      return;
    }
    Vector[] vectors = vectors(rows);
    for (int i = 0; i < rows.size(); i++) {
      if (!hash.hash(vectors, i)) {
        continue;
      }
      bounds.add(vectors, i);
      if (index.put(hash.first(), hash.second(), index.size()) >= 0) {
        throw new InvalidInputException(
            "Two rows of table %s would get the same key, %s. Nothing was changed."
                .formatted(table.name(), Assignment.describe(table.draft().schema(), rows.row(i))));
      }
      if (index.size() > KeyIndex.MOST) {
        throw new InvalidInputException(
            "An update of the key of more than %d rows at once is too large. Nothing was changed; do it in parts."
                .formatted(KeyIndex.MOST));
      }
    }
  }

  /** Looks for each new key in the table as it would be, where it may be once only. */
  Checked checked(Effect effect) {
    Draft draft = table.after(effect);
    VersionPage after = draft.page();
    if (index == null) {
      return new Checked(effect, draft);
    }
    table.awaitFiles();
    Filter filter = after.filter(bounds.condition(), table.context().pages());
    KeyScan scan = new KeyScan(table.context(), after, filter);
    boolean[] found = new boolean[index.size()];
    TreeCursor<FileEntry, FileSummary> files =
        after
            .fileTree(table.context().pages())
            .cursor(
                summary -> filter.testFiles(summary) != Verdict.NONE,
                (leaf, at) -> filter.testFiles(FileFormat.rangesAt(leaf, at)) != Verdict.NONE);
    while (files.next()) {
      scan.scan(
          files.value(),
          index,
          (row, rowHash, position, serial) -> {
            if (found[row]) {
              throw taken(after, files.value(), position);
            }
            found[row] = true;
          });
    }
    Read read = new Read(filter, Optional.of(index), Read.Kind.KEYS);
    return new Checked(effect.reading(read), draft);
  }

  /** An effect whose keys are known to be unique, and the table after it. */
  record Checked(Effect effect, Draft after) {}

  private InvalidInputException taken(VersionPage after, FileEntry file, int position) {
    String which = RowLookup.describe(table.context(), after, file, position);
    return new InvalidInputException(
        "Table %s would have two rows with the key %s. Nothing was changed; delete or update the other row first."
            .formatted(table.name(), which));
  }
}
