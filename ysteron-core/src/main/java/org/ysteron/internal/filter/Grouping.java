package org.ysteron.internal.filter;

import java.util.Optional;

/**
 * How the values of a column are grouped into numbered parts, so that what is known of the part of
 * some rows rules out values. A null has no part.
 *
 * <ul>
 *   <li>A value has the same part for ever, also when its column has become wider since.
 *   <li>What is unknown of a part is said by an empty answer, never by a wrong one.
 * </ul>
 */
public interface Grouping {

  /** The field whose values are grouped. */
  int fieldId();

  /** The id under which ranges tell the part. */
  int partId();

  /**
   * The parts of the values from one to another, both included.
   *
   * @param low the first, held as a vector of the type holds it (see {@link Ordered})
   * @param high the last
   * @return empty when they may be in any part
   */
  Optional<Span> parts(long low, long high);

  /**
   * The parts of the values from one to another.
   *
   * @param low the first, as bytes of the ordered domain
   * @param high what is behind the last; null for no end
   * @return empty when they may be in any part
   */
  Optional<Span> parts(byte[] low, byte[] high);

  /** Parts from one to another, both included. */
  record Span(long least, long most) {}
}
