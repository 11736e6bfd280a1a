package org.ysteron.internal.lake;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.store.ObjectStore;

/**
 * An object whose name says from which entry its writer started.
 *
 * @param name its name in the store
 * @param start that entry
 * @param bytes its size
 */
public record StartedObject(String name, long start, long bytes) {
  private static final int LISTED_AT_ONCE = 100_000;

  /** The objects of a directory whose starts are in a range, in their order. */
  public static List<StartedObject> in(ObjectStore store, String directory, long from, long to) {
    List<StartedObject> found = new ArrayList<>();
    String after = from == 0 ? "" : Numbering.flat(from - 1) + "~";
    while (true) {
      List<ObjectStore.Child> some = store.list(directory, after, LISTED_AT_ONCE);
      for (ObjectStore.Child child : some) {
        long start = Numbering.leading(child.segment()).orElse(-1);
        if (!child.directory() && start >= from && start < to) {
          found.add(new StartedObject(directory + "/" + child.segment(), start, child.size()));
        }
      }
      if (some.size() < LISTED_AT_ONCE) {
        return found;
      }
      after = some.get(some.size() - 1).segment();
      if (Numbering.leading(after).orElse(0) >= to) {
        return found;
      }
    }
  }
}
