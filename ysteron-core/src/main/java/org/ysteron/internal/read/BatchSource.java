package org.ysteron.internal.read;

import java.util.Optional;
import org.ysteron.data.Batch;

/** Batches one after the other. For one thread. */
public interface BatchSource extends AutoCloseable {

  /** The next batch; empty at the end. */
  Optional<Batch> next();

  @Override
  void close();
}
