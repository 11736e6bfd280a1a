package org.ysteron.internal.table;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.filter.Ranges;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.internal.tree.Reach;
import org.ysteron.internal.tree.Sections;
import org.ysteron.internal.tree.TreeFormat;

/**
 * Pages of file entries: a struct of arrays, so that equal and near values pack and a plan decodes
 * the arrays it needs. {@code docs/format.md} gives the bytes.
 */
public final class FileFormat implements TreeFormat<FileEntry, FileSummary> {
  public static final FileFormat INSTANCE = new FileFormat();

  private static final int CODE = 1;
  private static final int PAGE_BYTES = 16 << 10;
  private static final int NUMBERS = 10;
  static final int HASHES = 11;
  private static final int MASKS = 12;
  private static final int OTHER_IDS = 13;
  static final int ARRAYS = 16;
  static final int HASH = 32;
  private static final int MOST_IDS = 100_000;

  private static volatile int pageBytes = PAGE_BYTES;

  private FileFormat() {}

  /** Sets how large pages become, so that tests have trees of many; 0 for what it is. */
  static void makePagesOf(int bytes) {
    pageBytes = bytes == 0 ? PAGE_BYTES : bytes;
  }

  @Override
  public int code() {
    return CODE;
  }

  @Override
  public Optional<String> contradiction(
      FileSummary told, List<FileEntry> entries, boolean isClose) {
    return isClose
        ? contradictionOf(told, entries.stream().map(FileSummary::of).toList(), true)
        : told.contradiction(FileSummary.numbersOf(entries));
  }

  @Override
  public Optional<String> contradictionOf(
      FileSummary told, List<FileSummary> parts, boolean isClose) {
    return told.contradiction(FileSummary.numbers(parts))
        .or(() -> isClose ? told.loosenedBy(FileSummary.combine(parts)) : Optional.empty());
  }

  @Override
  public int pageBytes() {
    return pageBytes;
  }

  @Override
  public void writeValues(List<FileEntry> entries, Sections.Builder out) {
    int count = entries.size();
    long[][] columns = new long[ARRAYS][count];
    ByteOut hashes = out.part(HASHES);
    for (int i = 0; i < count; i++) {
      FileEntry entry = entries.get(i);
      FileEntry.Numbers of = entry.numbers();
      columns[0][i] = of.number();
      columns[1][i] = of.place() - of.number();
      columns[2][i] = of.start();
      columns[3][i] = of.size();
      columns[4][i] = of.rows();
      columns[5][i] = of.maskedRows();
      columns[6][i] = of.layout();
      columns[7][i] = of.schema();
      columns[8][i] = of.lastFieldId();
      FileEntry.Births births = of.births();
      columns[9][i] = births.own();
      columns[10][i] = births.since() - births.own();
      columns[11][i] = births.own() - births.least();
      columns[12][i] = births.greatest() - births.own();
      columns[13][i] = of.order();
      columns[14][i] = of.firstSerial();
      columns[15][i] = of.footerLength();
      hashes.fixed64(entry.id().getMostSignificantBits());
      hashes.fixed64(entry.id().getLeastSignificantBits());
      hashes.raw(entry.footerHashBytes()).raw(entry.hashBytes());
    }
    writeNumbers(columns, count, out);
    writeMasks(entries, out);
    writeOtherIds(entries, out);
    RangeTable.write(entries.stream().map(FileEntry::ranges).toList(), out);
  }

  /** How many files have a mask, and for each its place in the leaf and the mask. */
  private static void writeMasks(List<FileEntry> entries, Sections.Builder out) {
    long count = entries.stream().filter(entry -> entry.mask().isPresent()).count();
    if (count == 0) {
      return;
    }
    ByteOut masks = out.part(MASKS).varint(count);
    for (int i = 0; i < entries.size(); i++) {
      RowMask mask = entries.get(i).mask().orElse(null);
      if (mask != null) {
        masks.varint(i);
        mask.write(masks, out.place());
      }
    }
  }

  /** How many files have other ids than the table, and for each its place in the leaf and them. */
  private static void writeOtherIds(List<FileEntry> entries, Sections.Builder out) {
    long count = entries.stream().filter(entry -> !entry.otherIds().isEmpty()).count();
    if (count == 0) {
      return;
    }
    ByteOut part = out.part(OTHER_IDS).varint(count);
    for (int i = 0; i < entries.size(); i++) {
      Map<Integer, Integer> ids = new TreeMap<>(entries.get(i).otherIds());
      if (!ids.isEmpty()) {
        part.varint(i).varint(ids.size());
        ids.forEach((inFile, inTable) -> part.varint(inFile).varint(inTable));
      }
    }
  }

  static Map<Integer, Map<Integer, Integer>> readOtherIds(int count, Sections in) {
    Map<Integer, Map<Integer, Integer>> others = new HashMap<>();
    if (in.has(OTHER_IDS)) {
      ByteIn part = in.part(OTHER_IDS);
      int many = part.bounded(count);
      for (int i = 0; i < many; i++) {
        int at = part.bounded(count - 1);
        Map<Integer, Integer> ids = new HashMap<>();
        int pairs = part.bounded(Math.min(MOST_IDS, part.remaining()));
        for (int p = 0; p < pairs; p++) {
          ids.put(part.bounded(Integer.MAX_VALUE), part.bounded(Integer.MAX_VALUE));
        }
        others.put(at, ids);
      }
    }
    return others;
  }

  static RowMask[] readMasks(int count, Sections in) {
    RowMask[] masks = new RowMask[count];
    if (in.has(MASKS)) {
      ByteIn part = in.part(MASKS);
      int many = part.bounded(count);
      for (int i = 0; i < many; i++) {
        masks[part.bounded(count - 1)] = RowMask.read(part, in.place());
      }
    }
    return masks;
  }

  private static void writeNumbers(long[][] columns, int count, Sections.Builder out) {
    ByteOut numbers = out.part(NUMBERS);
    for (long[] column : columns) {
      numbers.packed(column, count);
    }
  }

  static long[][] readNumbers(int columns, int count, Sections in) {
    ByteIn numbers = in.part(NUMBERS);
    long[][] read = new long[columns][];
    for (int c = 0; c < columns; c++) {
      read[c] = numbers.packed(count);
    }
    return read;
  }

  @Override
  public List<FileEntry> readValues(int count, Sections in) {
    if ((long) count * (16 + 2 * HASH) != in.part(HASHES).remaining()) {
      throw new DamagedException(
          "A page has not the bytes for the hashes of %d files.".formatted(count));
    }
    return new FileLeaf(count, in);
  }

  @Override
  public Reach below(List<FileEntry> entries, PageHome holder) {
    List<PageRef> masks = new ArrayList<>();
    entries.forEach(entry -> masks.addAll(references(entry)));
    return Reach.below(holder, masks);
  }

  @Override
  public List<PageRef> references(FileEntry entry) {
    return entry.mask().flatMap(RowMask::page).map(List::of).orElse(List.of());
  }

  @Override
  public FileEntry moved(FileEntry entry, UnaryOperator<PageRef> change) {
    return entry.withMaskMoved(change);
  }

  /** Entries whose ranges are in one table, by which they are united and written the faster. */
  @Override
  public List<FileEntry> together(List<FileEntry> entries) {
    RangeTable table = RangeTable.gather(entries.stream().map(FileEntry::ranges).toList());
    List<FileEntry> together = new ArrayList<>(entries.size());
    for (int i = 0; i < entries.size(); i++) {
      together.add(entries.get(i).with(new RangeTable.RowOf(table, i)));
    }
    return together;
  }

  /** What is in them is told by numbers and hashes, which any bytes are; making them costs more. */
  @Override
  public boolean isReadBack() {
    return false;
  }

  @Override
  public FileSummary summarize(List<FileEntry> entries) {
    return FileSummary.combine(entries.stream().map(FileSummary::of).toList());
  }

  @Override
  public FileSummary combine(List<FileSummary> parts) {
    return FileSummary.combine(parts);
  }

  @Override
  public void writeSummaries(List<FileSummary> summaries, Sections.Builder out) {
    int count = summaries.size();
    long[][] columns = new long[6][count];
    for (int i = 0; i < count; i++) {
      FileSummary.Numbers of = summaries.get(i).numbers();
      columns[0][i] = of.rows();
      columns[1][i] = of.bytes();
      columns[2][i] = of.maskedRows();
      columns[3][i] = of.greatestBirth();
      columns[4][i] = of.leastLastFieldId();
      columns[5][i] = of.greatestLastFieldId();
    }
    writeNumbers(columns, count, out);
    RangeTable.write(summaries.stream().map(FileSummary::ranges).toList(), out);
  }

  @Override
  public List<FileSummary> readSummaries(int count, Sections in) {
    long[][] of = readNumbers(6, count, in);
    RangeTable ranges = RangeTable.read(count, in);
    List<FileSummary> summaries = new ArrayList<>(count);
    for (int i = 0; i < count; i++) {
      summaries.add(
          new FileSummary(
              new FileSummary.Numbers(of[0][i], of[1][i], of[2][i], of[3][i], of[4][i], of[5][i]),
              new RangeTable.RowOf(ranges, i)));
    }
    return summaries;
  }

  /** The ranges of an entry of a leaf, without making the entry. */
  public static Ranges rangesAt(List<FileEntry> leaf, int position) {
    return leaf instanceof FileLeaf lazy ? lazy.rangesAt(position) : leaf.get(position);
  }
}
