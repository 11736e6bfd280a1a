package org.ysteron.internal.check;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.proof.Finding;

/** Collects what is wrong, each object once for each thing that is wrong with it. Thread-safe. */
final class Findings {
  private static final int MOST = 1000;

  private final Map<String, Found> found = new LinkedHashMap<>();
  private long unlisted;
  private long gone;

  /** What something wrong is about. */
  sealed interface Subject {}

  /** A page of metadata. */
  record OfPage(PageRef page) implements Subject {}

  /** A data file of a table. */
  record OfFile(UUID table, FileEntry file) implements Subject {}

  /** Some versions of a table, as the newest state lists it. */
  record OfVersions(UUID table, long first, long last) implements Subject {}

  /** The lake as a whole. */
  record OfLake() implements Subject {}

  /** Something wrong. */
  record Found(Finding.Kind kind, String object, String problem, Subject subject) {}

  synchronized void add(Finding.Kind kind, String object, String problem, Subject subject) {
    Found one = new Found(kind, object, problem, subject);
    String key = kind + " " + object + " " + (kind == Finding.Kind.FILE ? "" : problem);
    if (found.size() < MOST) {
      found.putIfAbsent(key, one);
    } else if (!found.containsKey(key)) {
      unlisted++;
    }
  }

  /** Something that could not be read: what was let go by others is counted, and not wrong. */
  void unreadable(Finding.Kind kind, String object, RuntimeException why, Subject subject) {
    if (why instanceof ExpiredException) {
      gone(1);
    } else {
      // The finding says what can be done.
      String problem = why.getMessage().replaceAll(" Restore [^.]*a copy of the lake\\.$", "");
      add(kind, object, problem, subject);
    }
  }

  synchronized void gone(long more) {
    gone += more;
  }

  synchronized long unlisted() {
    return unlisted;
  }

  synchronized long gone() {
    return gone;
  }

  synchronized List<Found> all() {
    return new ArrayList<>(found.values());
  }
}
