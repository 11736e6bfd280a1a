package org.ysteron.cli;

import java.io.PrintWriter;
import java.nio.file.Path;
import org.ysteron.Lake;
import org.ysteron.LakeHandle;
import org.ysteron.progress.ProgressMonitor;
import org.ysteron.store.LocalStore;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** What all commands on a lake share. */
@Command
abstract class LakeCommand extends StandardCommand {
  static final String PROGRAM = "ysteron 0.1.0";

  @Option(
      names = {"-l", "--lake"},
      paramLabel = "DIR",
      defaultValue = "${env:YSTERON_LAKE:-.}",
      description = "Directory of the lake (default: $YSTERON_LAKE, or the current directory).")
  private Path lake;

  private ProgressLine progress;

  final Path directory() {
    return lake;
  }

  @Override
  public Integer call() {
    WatchedStore store = new WatchedStore(LocalStore.existing(lake));
    String name = spec().name();
    try (Lake opened = Lake.open(store);
        ProgressLine watching = new ProgressLine(isWatched(), name, store::told)) {
      progress = watching;
      run(opened.watchedBy(watching));
      return 0;
    }
  }

  private boolean isWatched() {
    return Output.IS_WATCHED && !(prints() && Output.ON_TERMINAL);
  }

  /** Whether it prints rows while it works, which a bar would disturb. */
  boolean prints() {
    return false;
  }

  @Override
  PrintWriter out() {
    if (progress != null) {
      progress.close(); // what is printed stands for itself
    }
    return super.out();
  }

  /** Watches the command's calls, and cancels them on Ctrl-C. */
  final ProgressMonitor progress() {
    return progress;
  }

  /** Does the command's work on the open lake. */
  abstract void run(LakeHandle opened);
}
