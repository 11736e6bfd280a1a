package org.ysteron.internal.tree;

import java.util.Optional;
import java.util.UUID;
import org.ysteron.report.TableVersion;

/**
 * What the newest state says of what is not there any more. Whoever misses an object asks before
 * anything is called damaged, since old versions expire, pages that are still needed are copied
 * elsewhere, and another lake may have taken the place of the one that was opened. Implementations
 * look the newest state up when they are asked, and throw a {@link
 * org.ysteron.error.WrongLakeException} when it is another lake's.
 */
public interface Past {
  /** Nothing ever went. */
  Past WHOLE = () -> 0;

  /** Whether anything ever went. */
  default boolean mayForget() {
    return floor() > 0;
  }

  /** Entries below it may be gone. */
  long floor();

  /**
   * Whether an object that holds pages has to be there: an entry from the floor on, or what the
   * newest state refers to.
   */
  default boolean isNeeded(PageHome object) {
    return object.kind() != PageHome.Kind.ENTRY || object.number() >= floor();
  }

  /**
   * Where the page of a version of a table is now.
   *
   * @param version the version that was read
   * @param commit the commit that made it
   * @param holds what it was said to hold
   * @return its page; empty when such a version is not known
   * @throws org.ysteron.error.ExpiredException when the version is gone, or rows were erased from
   *     it since
   */
  default Optional<PageRef> version(
      UUID table, long version, UUID commit, TableVersion.Totals holds) {
    return Optional.empty();
  }
}
