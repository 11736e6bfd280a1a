package org.ysteron.internal.copying;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.lake.FreeObject;
import org.ysteron.internal.lake.StartedObject;
import org.ysteron.internal.tree.Edit;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.store.ObjectStore;

/**
 * The objects of pages of a directory that a copying leaves behind: those with a start below some
 * number that were referred to; and of those that a sweep has looked at, which so are nobody's who
 * has yet to commit, also what was not. For one thread.
 */
final class LeftObjects {
  private final String directory;
  private final long pagesFrom;
  private final Set<PageHome> left = new HashSet<>();

  LeftObjects(String directory, long pagesFrom) {
    this.directory = directory;
    this.pagesFrom = pagesFrom;
  }

  /** A test of pages for being old that remembers where the old ones were. */
  Predicate<PageRef> of(Predicate<PageRef> isOld) {
    return ref -> {
      boolean old = isOld.test(ref);
      PageHome home = ref.home();
      if (old
          && home.isSettled()
          && home.kind() != PageHome.Kind.ENTRY
          && home.number() < pagesFrom) {
        left.add(home);
      }
      return old;
    };
  }

  /** What is free once the commit that is being made has happened. */
  List<Edit<FreeObject>> freed(Staging staging, ObjectStore store) {
    List<Edit<FreeObject>> freed = new ArrayList<>();
    if (pagesFrom == 0) {
      return freed;
    }
    Set<String> names = new HashSet<>();
    left.forEach(home -> names.add(home.objectName()));
    long swept = staging.base().page().upkeep().swept();
    for (StartedObject object : StartedObject.in(store, directory, 0, pagesFrom)) {
      if (object.start() < swept || names.contains(object.name())) {
        FreeObject free = FreeObject.of(staging.commit().entry(), object.name(), object.bytes());
        freed.add(Edit.put(free.key(), free));
      }
    }
    return freed;
  }
}
