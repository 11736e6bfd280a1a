package org.ysteron.internal.write;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.HexFormat;
import java.util.Map;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.ysteron.data.Schema;
import org.ysteron.error.YsteronException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.DataFileReader;
import org.ysteron.internal.file.DataFileWriter;
import org.ysteron.internal.file.FooterCache;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.work.StoreFailures;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.LocalStore;

/**
 * Data files in a directory of their own that are gone when this is closed, for rows that do not
 * fit in memory. The directory is made with the first file. For one thread.
 */
public final class TempFiles implements AutoCloseable {
  private final Schema schema;
  private final long groupBytes;
  private final Workers workers;
  private final UUID id = UUID.randomUUID();
  private Path directory;
  private LocalStore store;
  private int files;

  /** For rows of a schema, in row groups of about so many bytes. */
  public TempFiles(Schema schema, long groupBytes, Workers workers) {
    this.schema = schema;
    this.groupBytes = groupBytes;
    this.workers = workers;
  }

  /** Writes a file. */
  public DataFile write(Consumer<DataFileWriter> rows) {
    if (store == null) {
      try {
        directory = Files.createTempDirectory(workers.means().temporary(), "ysteron-rows-");
      } catch (IOException e) {
        throw new YsteronException(
            "Rows that do not fit in memory cannot be written to a temporary file: %s. Make room in %s, or name another directory with -Djava.io.tmpdir or in the lake's options."
                .formatted(reason(e), workers.means().temporary()),
            e);
      }
      store = new LocalStore(directory);
    }
    String name = "rows-" + files++;
    DataFileWriter.Plan plan = DataFileWriter.Plan.temporary(id, schema, groupBytes);
    try (DataFileWriter writer = new DataFileWriter(store, name, plan, workers)) {
      rows.accept(writer);
      DataFileWriter.Written written = writer.finish();
      writer.commit();
      return new DataFile(
          name,
          written.size(),
          written.rows(),
          written.footerLength(),
          HexFormat.of().formatHex(written.footerHash()),
          new FieldIds(Integer.MAX_VALUE, Map.of()));
    }
  }

  /** Why a temporary file could not be made or written, in words. */
  public static String reason(IOException e) {
    return e instanceof NoSuchFileException ? "the directory does not exist" : e.getMessage();
  }

  /** Reads a file from its first row on. */
  public DataFileReader read(DataFile file) {
    Filter all = Filter.bind(Condition.all(), schema);
    return new DataFileReader(store, file, id, schema.struct(), all, new FooterCache());
  }

  void delete(DataFile file) {
    store.delete(file.name());
  }

  @Override
  public void close() {
    if (store == null) {
      return;
    }
    store.close();
    try (Stream<Path> all = Files.walk(directory)) {
      for (Path file : all.sorted(java.util.Comparator.reverseOrder()).toList()) {
        Files.delete(file);
      }
    } catch (IOException e) {
      StoreFailures.log(directory.toString(), new YsteronException(e.toString(), e));
    }
    store = null;
  }
}
