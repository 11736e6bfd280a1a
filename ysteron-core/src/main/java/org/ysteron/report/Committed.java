package org.ysteron.report;

import java.util.Map;
import java.util.UUID;

/**
 * A commit that happened.
 *
 * @param commit its entry, time and words
 * @param versions the new version of each table it changed
 */
public record Committed(CommitStamp commit, Map<UUID, Long> versions) {}
