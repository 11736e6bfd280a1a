package org.ysteron.internal.commit;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.ysteron.data.Json;
import org.ysteron.error.DamagedException;
import org.ysteron.error.ExpiredException;
import org.ysteron.internal.tree.Numbering;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectInput;
import org.ysteron.store.ObjectStore;

/**
 * The ledger as objects {@code ledger/000/000/042}, levels of at most 1,000 names, so that the
 * newest is found by three short listings, or by one from a known one on. Thread-safe.
 */
public final class StoreLedger implements Ledger {
  private static final String DIRECTORY = "ledger";
  private static final String FLOOR = "floor";
  private static final String RESTORED = "restored-";
  private static final int FAN_OUT = 1000;

  private final ObjectStore store;

  public StoreLedger(ObjectStore store) {
    this.store = store;
  }

  @Override
  public long newest(long known) {
    if (known >= 0) {
      long base = known - known % FAN_OUT;
      int last = (int) (known % FAN_OUT);
      // The known one must be there, too: an empty listing says that something is wrong.
      List<Integer> there = numbers(directory(known), last == 0 ? "" : group(last - 1));
      there.removeIf(number -> number < last);
      boolean found = !there.isEmpty() && there.get(0) == last && isDense(there);
      if (found && there.get(there.size() - 1) != FAN_OUT - 1) {
        return base + there.get(there.size() - 1);
      }
    }
    return search();
  }

  /** Goes down the last directories; one that a dying writer left empty is passed over. */
  private long search() {
    List<ObjectStore.Child> tops = children(DIRECTORY, "");
    for (int t = tops.size() - 1; t >= 0; t--) {
      String first = tops.get(t).segment();
      int levels = Numbering.levels(first);
      if (levels > 0) {
        long start = Numbering.isGroup(first) ? Integer.parseInt(first) : 0;
        long found = search(DIRECTORY + "/" + first, start, levels);
        if (found >= 0) {
          return found;
        }
      }
    }
    return -1;
  }

  private long search(String directory, long above, int levels) {
    List<Integer> numbers = numbers(directory, "");
    if (levels == 1) {
      return numbers.isEmpty() ? -1 : last(numbers, above * FAN_OUT, directory);
    }
    for (int i = numbers.size() - 1; i >= 0; i--) {
      int number = numbers.get(i);
      long found = search(directory + "/" + group(number), above * FAN_OUT + number, levels - 1);
      if (found >= 0) {
        return found;
      }
    }
    return -1;
  }

  /** The last of the numbers in a directory; from the floor on none may be missing before it. */
  private long last(List<Integer> numbers, long base, String directory) {
    int last = numbers.get(numbers.size() - 1);
    if (numbers.get(0) == 0 && isDense(numbers)) {
      return base + last;
    }
    Marks marks = marks();
    int first = (int) Math.max(0, Math.min(FAN_OUT, marks.floor() - base));
    numbers.removeIf(number -> number < first);
    for (int i = 0; i < numbers.size(); i++) {
      if (numbers.get(i) != first + i) {
        throw DamagedException.of(
            directory + "/" + group(first + i),
            "The ledger of %s has a hole: entry %s/%s is missing, but later ones exist. Reading and writing are refused; %s."
                .formatted(
                    store.location(),
                    directory,
                    group(first + i),
                    marks.restorations().isEmpty()
                        ? "restore it from a copy of the lake"
                        : "if the lake was just restored from a copy and a program from before still writes to it, stop that program and delete the entries after the hole; otherwise restore the entry from a copy of the lake"),
            null);
      }
    }
    return base + last;
  }

  private static boolean isDense(List<Integer> numbers) {
    return numbers.get(numbers.size() - 1) - numbers.get(0) == numbers.size() - 1;
  }

  private List<ObjectStore.Child> children(String directory, String after) {
    List<ObjectStore.Child> all = new ArrayList<>();
    List<ObjectStore.Child> some = store.list(directory, after, FAN_OUT);
    while (!some.isEmpty()) {
      all.addAll(some);
      String last = some.get(some.size() - 1).segment();
      some = some.size() < FAN_OUT ? List.of() : store.list(directory, last, FAN_OUT);
    }
    return all;
  }

  private List<Integer> numbers(String directory, String after) {
    List<Integer> numbers = new ArrayList<>();
    for (ObjectStore.Child child : children(directory, after)) {
      if (Numbering.isGroup(child.segment())) {
        numbers.add(Integer.parseInt(child.segment()));
      }
    }
    return numbers;
  }

  private static String group(long number) {
    return Long.toString(FAN_OUT + number).substring(1);
  }

  private static String directory(long number) {
    String name = PageHome.entryName(number);
    return name.substring(0, name.lastIndexOf('/'));
  }

  @Override
  public Start read(long number, int most) {
    try (ObjectInput entry = store.open(nameOf(number))) {
      byte[] start = new byte[(int) Math.min(most, entry.size())];
      entry.readFully(0, ByteBuffer.wrap(start));
      return new Start(start, entry.size());
    } catch (MissingObjectException e) {
      long floor = floor();
      if (number < floor) {
        throw ExpiredException.ofEntry(
            number,
            "Ledger entry %d of %s has expired: entries below %d are no longer kept."
                .formatted(number, store.location(), floor),
            e);
      }
      throw DamagedException.of(
          nameOf(number),
          "Ledger entry %d (%s) is missing in %s. Restore it from a copy of the lake."
              .formatted(number, nameOf(number), store.location()),
          e);
    }
  }

  @Override
  public boolean exists(long number) {
    try {
      store.open(nameOf(number)).close();
      return true;
    } catch (MissingObjectException e) {
      return false;
    }
  }

  @Override
  public boolean create(long number, byte[] content) {
    return store.createIfAbsent(nameOf(number), content);
  }

  @Override
  public void raiseFloor(long number, String hash) {
    Map<String, Object> line = new LinkedHashMap<>();
    line.put("ysteron", "floor");
    line.put("number", number);
    line.put("hash", hash);
    store.createIfAbsent(
        FLOOR + "/" + Numbering.flat(number),
        (Json.write(line) + "\n").getBytes(StandardCharsets.UTF_8));
  }

  @Override
  public void forgetFloorsBelow(long number) {
    for (ObjectStore.Child child : children(FLOOR, "")) {
      if (Numbering.leading(child.segment()).orElse(number) < number) {
        store.delete(FLOOR + "/" + child.segment());
      }
    }
  }

  @Override
  public boolean eachBelow(long number, Visitor visitor) {
    for (ObjectStore.Child top : children(DIRECTORY, "")) {
      int levels = Numbering.levels(top.segment());
      if (levels > 0 && !eachBelow(DIRECTORY + "/" + top.segment(), levels, number, visitor)) {
        return false;
      }
    }
    return true;
  }

  private boolean eachBelow(String directory, int levels, long number, Visitor visitor) {
    for (ObjectStore.Child child : children(directory, "")) {
      if (!Numbering.isGroup(child.segment())) {
        continue;
      }
      String name = directory + "/" + child.segment();
      if (levels > 1) {
        if (Numbering.ofPath(name.substring(DIRECTORY.length() + 1) + "/000".repeat(levels - 1))
            >= number) {
          return true; // what comes behind it is greater
        }
        if (!eachBelow(name, levels - 1, number, visitor)) {
          return false;
        }
        continue;
      }
      long entry = Numbering.ofPath(name.substring(DIRECTORY.length() + 1));
      if (entry < number && !visitor.entry(entry, name, child.size())) {
        return false;
      }
    }
    return true;
  }

  @Override
  public Marks marks() {
    long floor = 0;
    Set<String> restorations = new TreeSet<>();
    for (ObjectStore.Child child : children(FLOOR, "")) {
      floor = Math.max(floor, Numbering.leading(child.segment()).orElse(0));
      if (child.segment().startsWith(RESTORED)) {
        restorations.add(child.segment().substring(RESTORED.length()));
      }
    }
    return new Marks(floor, restorations);
  }

  @Override
  public void markRestored(String id) {
    store.createIfAbsent(
        FLOOR + "/" + RESTORED + id,
        "{\"ysteron\":\"restored\"}\n".getBytes(StandardCharsets.UTF_8));
  }

  @Override
  public void forgetRestoredBut(String id) {
    for (String other : marks().restorations()) {
      if (!other.equals(id)) {
        store.delete(FLOOR + "/" + RESTORED + other);
      }
    }
  }

  @Override
  public String nameOf(long number) {
    return PageHome.entryName(number);
  }
}
