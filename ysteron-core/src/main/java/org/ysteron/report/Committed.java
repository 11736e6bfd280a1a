package org.ysteron.report;

import java.util.Map;
import java.util.UUID;

/**
 * A successful commit.
 *
 * @param commit its entry, time, author and note
 * @param versions the new version of each table it changed
 */
public record Committed(CommitStamp commit, Map<UUID, Long> versions) {}
