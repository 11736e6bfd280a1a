package org.ysteron.internal.tree;

import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;

/**
 * What a page tree needs to know of its values and of the summaries that inner nodes carry of what
 * is below them. Implementations are stateless and keep to this:
 *
 * <ul>
 *   <li>{@link #code()} differs for every format; it is written into each page and checked.
 *   <li>Reading what was written gives equal values and summaries; reading may be lazy.
 *   <li>{@link #combine} of the summaries of parts is the summary of the whole, or a looser one.
 *   <li>Section numbers 0 to 9 belong to the tree, all others to the format.
 * </ul>
 *
 * @param <V> values
 * @param <S> summaries
 */
public interface TreeFormat<V, S> {

  int code();

  /** The size that pages aim at, in bytes. */
  int pageBytes();

  void writeValues(List<V> values, Sections.Builder out);

  List<V> readValues(int count, Sections in);

  /** What the references of some values that are followed add to the page that holds them. */
  default Reach below(List<V> values, PageHome holder) {
    return Reach.NONE;
  }

  /** All references of a value, followed or not. */
  default List<PageRef> references(V value) {
    return List.of();
  }

  /** A value with its references changed. */
  default V moved(V value, UnaryOperator<PageRef> change) {
    return value;
  }

  /** The values of a new leaf, in a form that is the faster to write and to summarize. */
  default List<V> together(List<V> values) {
    return values;
  }

  /** Whether each page is read again when it is made, and compared with what it was made from. */
  default boolean isReadBack() {
    return true;
  }

  S summarize(List<V> values);

  S combine(List<S> parts);

  /**
   * Says where the summary that a page has is not true of the values of a leaf.
   *
   * @param isClose whether all of it is looked at, or what costs little
   */
  default Optional<String> contradiction(S told, List<V> values, boolean isClose) {
    return contradictionOf(told, List.of(summarize(values)), isClose);
  }

  /** Says where a summary is not true of what is said of the parts; looser is true. */
  default Optional<String> contradictionOf(S told, List<S> parts, boolean isClose) {
    S found = combine(parts);
    return found.equals(told)
        ? Optional.empty()
        : Optional.of(
            "its parent page summarizes it as %s, but it contains %s".formatted(told, found));
  }

  void writeSummaries(List<S> summaries, Sections.Builder out);

  List<S> readSummaries(int count, Sections in);
}
