package org.ysteron;

import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import org.ysteron.store.ObjectStore;

/** All that is in a store. */
final class StoreContents {
  private StoreContents() {}

  /** The names of its objects below a directory; of all with an empty one. */
  static SortedSet<String> names(ObjectStore store, String directory) {
    SortedSet<String> names = new TreeSet<>();
    for (ObjectStore.Child child : store.list(directory, "", Integer.MAX_VALUE)) {
      String name = directory.isEmpty() ? child.segment() : directory + "/" + child.segment();
      if (child.directory()) {
        names.addAll(names(store, name));
      } else {
        names.add(name);
      }
    }
    return names;
  }

  /** Its objects by name. */
  static SortedMap<String, byte[]> of(ObjectStore store) {
    SortedMap<String, byte[]> objects = new TreeMap<>();
    names(store, "").forEach(name -> objects.put(name, store.read(name)));
    return objects;
  }

  /** Puts all objects of a store into another one. */
  static void copy(ObjectStore from, ObjectStore to) {
    of(from).forEach(to::createIfAbsent);
  }
}
