package org.ysteron.progress;

import java.util.OptionalLong;

/**
 * How far a step of a long call is. A call has one or more steps, one after the other.
 *
 * @param step what is done, such as {@code "search files"}; in English, for people
 * @param done how much is done
 * @param total how much there is to do; empty when this is not known
 * @param unit of {@code done} and {@code total}
 */
public record Progress(String step, long done, OptionalLong total, Unit unit) {
  /** What is counted. */
  public enum Unit {
    BYTES,
    ROWS,
    FILES,
    VERSIONS,
    PAGES,
    OBJECTS
  }
}
