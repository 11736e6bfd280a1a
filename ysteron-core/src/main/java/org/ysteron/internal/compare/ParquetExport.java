package org.ysteron.internal.compare;

import java.nio.file.Path;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.file.DataFileWriter;
import org.ysteron.internal.work.Workers;
import org.ysteron.store.LocalStore;
import org.ysteron.store.MissingObjectException;

/** Writes rows to a Parquet file outside the lake, whole or not at all. */
public final class ParquetExport {
  private static final long GROUP_BYTES = 64L << 20;

  private ParquetExport() {}

  /**
   * Writes all rows of some results.
   *
   * @return how many they are
   */
  public static long write(Path file, Schema schema, Results<Batch> batches, Workers workers) {
    Path target = file.toAbsolutePath().normalize();
    Path directory = target.getParent();
    if (directory == null) {
      throw new InvalidInputException("%s is not the path of a file.".formatted(file));
    }
    long[] rows = {0};
    DataFileWriter.Plan plan =
        new DataFileWriter.Plan(UUID.randomUUID(), schema, Set.of(), GROUP_BYTES, List.of());
    String name = target.getFileName().toString();
    try (batches;
        LocalStore store = storeOf(directory, file);
        DataFileWriter writer = absent(file, name, store, plan, workers)) {
      for (Batch batch : batches) {
        writer.write(batch);
        rows[0] += batch.size();
      }
      DataFileWriter.Written unused = writer.finish();
      writer.commit();
    }
    return rows[0];
  }

  private static LocalStore storeOf(Path directory, Path file) {
    try {
      return LocalStore.existing(directory);
    } catch (NotFoundException e) {
      throw new InvalidInputException(
          "%s cannot be written, because the directory %s does not exist. Make it first."
              .formatted(file, directory),
          e);
    }
  }

  private static DataFileWriter absent(
      Path file, String name, LocalStore store, DataFileWriter.Plan plan, Workers workers) {
    try {
      store.open(name).close();
      throw exists(file);
    } catch (MissingObjectException e) {
      return new DataFileWriter(store, name, plan, workers);
    } catch (DamagedException e) {
      throw new InvalidInputException(
          "%s cannot be written, because it is not a file. Give another name.".formatted(file), e);
    }
  }

  private static AlreadyExistsException exists(Path file) {
    return new AlreadyExistsException(
        AlreadyExistsException.Kind.FILE,
        file.toString(),
        "The file %s already exists. Remove it, or give another name.".formatted(file));
  }
}
