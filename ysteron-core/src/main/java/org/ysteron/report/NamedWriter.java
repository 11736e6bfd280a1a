package org.ysteron.report;

import java.util.OptionalLong;

/**
 * What a table remembers of a named writer.
 *
 * @param name its name
 * @param session the number of the session that may write; earlier ones are refused
 * @param sequence the last sequence number that was committed; empty before the first
 */
public record NamedWriter(String name, long session, OptionalLong sequence) {}
