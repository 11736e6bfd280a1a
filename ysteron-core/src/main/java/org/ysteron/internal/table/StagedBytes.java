package org.ysteron.internal.table;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;
import org.ysteron.internal.tree.Sections;

/**
 * Staged files as bytes: the sections of a leaf of file entries, which know all of a staged file
 * but where its rows were moved from. What the table gives a file at the commit is 0 in them.
 */
public final class StagedBytes {
  private StagedBytes() {}

  /** Writes files to which no rows were moved. */
  public static byte[] write(List<StagedFile> files) {
    List<FileEntry> entries = new ArrayList<>();
    for (StagedFile file : files) {
      entries.add(FileEntry.of(file, 0, 0, 0));
    }
    ByteOut out = new ByteOut().varint(entries.size());
    out.raw(Sections.alone(sections -> FileFormat.INSTANCE.writeValues(entries, sections)));
    return out.toByteArray();
  }

  /** Reads what {@link #write} wrote. */
  public static List<StagedFile> read(byte[] bytes) {
    ByteIn in = new ByteIn(bytes);
    int count = in.bounded(in.remaining());
    List<StagedFile> files = new ArrayList<>();
    for (FileEntry entry : FileFormat.INSTANCE.readValues(count, Sections.alone(in))) {
      FileEntry.Numbers of = entry.numbers();
      files.add(
          new StagedFile(
              entry.id(),
              of.start(),
              of.size(),
              of.rows(),
              new StagedFile.Form(of.schema(), of.layout(), entry.fieldIds()),
              of.footerLength(),
              entry.footerHashBytes(),
              entry.hashBytes(),
              entry.trackedRanges(),
              of.order(),
              Optional.empty()));
    }
    return files;
  }
}
