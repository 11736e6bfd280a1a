package org.ysteron.internal.read;

import org.ysteron.data.Batch;

/** Batches one after the other. For one thread. */
public interface BatchSource extends Source<Batch> {}
