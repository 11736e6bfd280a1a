package org.ysteron.internal.table;

import java.util.AbstractList;
import java.util.Map;
import java.util.RandomAccess;
import java.util.UUID;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.filter.ColumnRange;
import org.ysteron.internal.filter.Ranges;
import org.ysteron.internal.tree.Sections;

/** Entries that are made when asked for. */
final class FileLeaf extends AbstractList<FileEntry> implements RandomAccess {
  private final int count;
  private final Sections in;
  private final RangeTable ranges;
  private long[][] of;
  private byte[] hashes;
  private RowMask[] masks;
  private Map<Integer, Map<Integer, Integer>> otherIds;

  FileLeaf(int count, Sections in) {
    this.count = count;
    this.in = in;
    this.ranges = RangeTable.read(count, in);
  }

  private synchronized void decode() {
    if (hashes == null) {
      hashes =
          in.guarded(
              () -> {
                of = FileFormat.readNumbers(FileFormat.ARRAYS, count, in);
                masks = FileFormat.readMasks(count, in);
                otherIds = FileFormat.readOtherIds(count, in);
                return in.part(FileFormat.HASHES).raw(count * (16 + 2 * FileFormat.HASH));
              });
    }
  }

  Ranges rangesAt(int i) {
    return id -> {
      ColumnRange range = ranges.get(i, id);
      return range != null ? range : get(i).range(id);
    };
  }

  @Override
  public FileEntry get(int i) {
    decode();
    try {
      return entry(i);
    } catch (RuntimeException e) {
      throw in.unreadable(e);
    }
  }

  private FileEntry entry(int i) {
    ByteIn bytes =
        new ByteIn(hashes, i * (16 + 2 * FileFormat.HASH), (i + 1) * (16 + 2 * FileFormat.HASH));
    UUID id = new UUID(bytes.fixed64(), bytes.fixed64());
    FileEntry.Numbers numbers =
        new FileEntry.Numbers(
            of[0][i],
            of[0][i] + of[1][i],
            of[2][i],
            new FileEntry.Extent(of[3][i], of[15][i], of[4][i], of[5][i]),
            new FileEntry.WrittenBy(of[6][i], of[7][i], of[8][i], of[13][i]),
            new FileEntry.Births(
                of[9][i], of[9][i] + of[10][i], of[9][i] - of[11][i], of[9][i] + of[12][i]),
            of[14][i]);
    return new FileEntry(
        numbers,
        id,
        bytes.raw(FileFormat.HASH),
        bytes.raw(FileFormat.HASH),
        new RangeTable.RowOf(ranges, i),
        masks[i],
        otherIds.isEmpty() ? Map.of() : otherIds.getOrDefault(i, Map.of()));
  }

  @Override
  public int size() {
    return count;
  }
}
