package org.ysteron.cli;

import org.ysteron.progress.Progress;
import org.ysteron.progress.ProgressMonitor;

/** Watches statements of the shell; one that runs can be cancelled. Thread-safe. */
final class ShellMonitor implements ProgressMonitor {
  private final ProgressMonitor process;
  private volatile boolean cancelled;

  /** {@code process}: is told of progress, and cancels everything when the process ends. */
  ShellMonitor(ProgressMonitor process) {
    this.process = process;
  }

  /** A statement begins. */
  void begins() {
    cancelled = false;
  }

  /** The statement that runs is to end. */
  void cancel() {
    cancelled = true;
  }

  @Override
  public void progress(Progress progress) {
    process.progress(progress);
  }

  @Override
  public boolean isCancelled() {
    return cancelled || process.isCancelled();
  }
}
