package org.ysteron.internal.upkeep;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.TableSettings;

/**
 * The groups of files of a version that are to be packed, partition after partition: only one
 * partition's files are held, and not more than some. For one thread.
 */
final class PackPlan {
  /** Files of an older form are read together so far, so that rows that belong together meet. */
  private static final long RENEWED_BYTES = 512L << 20;

  /** So far when rows get an order: they are sorted outside of memory. */
  private static final long ORDERED_BYTES = 16L << 30;

  /** So many files are held at most; a partition with more small ones is packed in several goes. */
  private static final int MOST_FILES = 100_000;

  /** A tree key ends with a place and a number. */
  private static final int WITHIN_PARTITION = 2 * Long.BYTES;

  private final VersionPage table;
  private final PackChoice choice;
  private final PackPolicy policy;
  private final ScanPlan files;
  private final Set<Long> without;
  private final Deque<List<FileEntry>> ready = new ArrayDeque<>();
  private final List<FileEntry> renewed = new ArrayList<>();
  private final List<FileEntry> partition = new ArrayList<>();
  private long renewedBytes;
  private byte[] prefix = new byte[0];
  private boolean ended;

  /**
   * A plan of a version.
   *
   * @param without the numbers of files that are left as they are
   */
  PackPlan(VersionPage table, PackChoice choice, Set<Long> without, ReadContext context) {
    this.table = table;
    this.choice = choice;
    this.without = without;
    this.policy = policy(table, choice.thorough());
    Filter filter = table.filter(context.fixed(choice.condition()), context.pages());
    this.files = new ScanPlan(table, filter, context);
  }

  /** By the size that a table's files are to have. */
  static PackPolicy policy(VersionPage table, boolean thorough) {
    return new PackPolicy(table.settings().number(TableSettings.FILE_BYTES), thorough);
  }

  /** The files of the next group, in the order of the tree; empty at the end. */
  Optional<List<FileEntry>> next() {
    while (ready.isEmpty() && !ended) {
      Optional<ScanPlan.Task> task = files.next();
      if (task.isEmpty()) {
        endPartition();
        endRenewed();
        ended = true;
      } else if (!without.contains(task.get().entry().numbers().number())) {
        add(task.get().entry());
      }
    }
    return Optional.ofNullable(ready.poll());
  }

  private void add(FileEntry file) {
    byte[] key = file.key();
    byte[] its = Arrays.copyOf(key, key.length - WITHIN_PARTITION);
    if (!Arrays.equals(its, prefix)) {
      endPartition();
      prefix = its;
    }
    if (isOfOldForm(file, table)) {
      if (choice.renews()) {
        renew(file);
        return;
      }
      if (file.numbers().layout() != table.layoutVersion()) {
        return; // its rows belong into other partitions now
      }
    }
    if (policy.concerns(packable(file))) {
      partition.add(file);
      if (partition.size() == MOST_FILES) {
        endPartition();
      }
    }
  }

  /** Whether a file is of an earlier layout or schema, or not in the order of its layout. */
  static boolean isOfOldForm(FileEntry file, VersionPage table) {
    return file.numbers().layout() != table.layoutVersion()
        || file.numbers().schema() != table.schemaVersion()
        || isOutOfOrder(file, table);
  }

  /** Whether a file of the newest layout is not in the order of that. */
  static boolean isOutOfOrder(FileEntry file, VersionPage table) {
    return table.form().layout().hasOrder()
        && file.numbers().layout() == table.layoutVersion()
        && file.numbers().order() != table.layoutVersion() + 1;
  }

  private void renew(FileEntry file) {
    renewed.add(file);
    renewedBytes += file.size();
    long most = table.form().layout().hasOrder() ? ORDERED_BYTES : RENEWED_BYTES;
    if (renewedBytes >= most || renewed.size() == MOST_FILES) {
      endRenewed();
    }
  }

  private void endRenewed() {
    if (!renewed.isEmpty()) {
      ready.add(List.copyOf(renewed));
      renewed.clear();
      renewedBytes = 0;
    }
  }

  private void endPartition() {
    List<PackPolicy.Packable> packable = partition.stream().map(PackPlan::packable).toList();
    for (List<Integer> group : policy.groups(packable)) {
      ready.add(group.stream().map(partition::get).toList());
    }
    partition.clear();
  }

  static PackPolicy.Packable packable(FileEntry file) {
    return new PackPolicy.Packable(file.size(), file.rows(), file.liveRows());
  }
}
