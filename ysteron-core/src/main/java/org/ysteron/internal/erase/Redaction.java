package org.ysteron.internal.erase;

import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.commit.LakeCore;
import org.ysteron.internal.table.HistoryRecord;
import org.ysteron.report.CommitStamp;

/**
 * Whose texts are redacted: those of all commits that changed a table, in whatever place they are
 * remembered. Of a commit that may have made a version which is gone the entry tells; when that is
 * gone, too, the commit counts as one of them. For one thread.
 */
final class Redaction {
  static final String REDACTED = "(redacted)";

  private final LakeCore core;
  private final UUID table;
  private final boolean authors;
  private final Set<UUID> commits = new HashSet<>();
  private final NavigableMap<Long, Long> versions = new TreeMap<>();
  private final Map<UUID, Boolean> known = new HashMap<>();
  private long texts;

  /**
   * Of a table.
   *
   * @param records its versions that are kept
   * @param authors whether authors go as well
   */
  Redaction(LakeCore core, UUID table, List<HistoryRecord> records, boolean authors) {
    this.core = core;
    this.table = table;
    this.authors = authors;
    for (HistoryRecord record : records) {
      commits.add(record.commit().commitId());
      versions.put(record.commit().ordinal(), record.version());
    }
  }

  /** Whether a commit has texts that go. */
  boolean isMeant(CommitStamp commit) {
    boolean hasTexts = !commit.note().isEmpty() || !commit.statement().isEmpty();
    boolean isNamed = authors && !commit.author().equals(REDACTED);
    return (hasTexts || isNamed) && changed(commit);
  }

  /** A commit without its texts. */
  CommitStamp of(CommitStamp commit) {
    texts++;
    return new CommitStamp(
        commit.entry(),
        commit.ordinal(),
        commit.commitId(),
        commit.time(),
        authors ? REDACTED : commit.author(),
        commit.program(),
        "",
        "");
  }

  /** A commit, without its texts when they go. */
  CommitStamp ofAny(CommitStamp commit) {
    return isMeant(commit) ? of(commit) : commit;
  }

  boolean authors() {
    return authors;
  }

  /** How many texts went, each as often as it was remembered. */
  long texts() {
    return texts;
  }

  private boolean changed(CommitStamp commit) {
    if (commits.contains(commit.commitId())) {
      return true;
    }
    Map.Entry<Long, Long> before = versions.lowerEntry(commit.ordinal());
    Map.Entry<Long, Long> after = versions.higherEntry(commit.ordinal());
    long least = before == null ? -1 : before.getValue();
    boolean mayHave = after != null && after.getValue() > least + 1;
    return mayHave && known.computeIfAbsent(commit.commitId(), id -> toldByEntry(commit));
  }

  private boolean toldByEntry(CommitStamp commit) {
    try {
      Set<UUID> tables = core.entry(commit.entry()).tables().get(commit.commitId());
      return tables == null || tables.contains(table);
    } catch (ExpiredException e) {
      return true;
    }
  }
}
