package org.ysteron.internal.changes;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.internal.read.BatchSource;
import org.ysteron.internal.read.FileRows;
import org.ysteron.internal.read.FilesScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.rows.Gather;
import org.ysteron.internal.table.VersionPage;

/**
 * The rows that a version has and the one before had not: those that were born with it under
 * serials that the one before had not given out. Files that both have are not looked at, and of
 * files that came by moving rows only what was born with the version counts. For one thread.
 */
public final class AppendedRows implements BatchSource {
  private final long ordinal;
  private final long firstSerial;
  private final FilesScan rows;

  /** {@code before} is null for the first version. */
  public AppendedRows(ReadContext context, VersionPage before, VersionPage table) {
    this.ordinal = table.ordinal();
    this.firstSerial = before == null ? 0 : before.record().nextSerial();
    List<FilesScan.Part> parts =
        FileChanges.between(Optional.ofNullable(before), table, context.pages(), files -> true)
            .cameWithBorn(ordinal - 1)
            .stream()
            .map(file -> FilesScan.Part.of(table, file, null))
            .toList();
    this.rows = FilesScan.told(context, parts, table.schema());
  }

  @Override
  public Optional<Batch> next() {
    while (true) {
      Optional<FileRows> read = rows.next();
      if (read.isEmpty()) {
        return Optional.empty();
      }
      Batch fresh = fresh(read.get());
      if (fresh.size() > 0) {
        return Optional.of(fresh);
      }
    }
  }

  private Batch fresh(FileRows read) {
    if (!read.file().tellsSerials()) {
      return read.rows();
    }
    long[] fresh = new long[(read.size() + 63) >> 6];
    for (int i = 0; i < read.size(); i++) {
      if (read.birth(i) == ordinal && read.serial(i) >= firstSerial) {
        fresh[i >> 6] |= 1L << i;
      }
    }
    return Gather.select(read.rows(), fresh);
  }

  @Override
  public void close() {
    rows.close();
  }
}
