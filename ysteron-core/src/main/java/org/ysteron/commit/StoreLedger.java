package org.ysteron.commit;

import java.util.ArrayList;
import java.util.List;
import org.ysteron.error.DamagedException;
import org.ysteron.store.MissingObjectException;
import org.ysteron.store.ObjectStore;
import org.ysteron.tree.PageHome;

/**
 * The ledger as objects {@code ledger/000/000/042}, three levels of at most 1,000 names, so that
 * the newest is found by three short listings, or by one after a known one. Thread-safe.
 */
public final class StoreLedger implements Ledger {
  private static final String DIRECTORY = "ledger";
  private static final int FAN_OUT = 1000;

  private final ObjectStore store;

  public StoreLedger(ObjectStore store) {
    this.store = store;
  }

  @Override
  public long newest(long known) {
    if (known >= 0) {
      List<Integer> later = numbers(directory(known), three(known % FAN_OUT));
      if (later.isEmpty() && known % FAN_OUT != FAN_OUT - 1) {
        return known;
      }
      if (!later.isEmpty()) {
        checkDense(later, (int) (known % FAN_OUT) + 1, directory(known));
        int last = later.get(later.size() - 1);
        if (last != FAN_OUT - 1) {
          return known - known % FAN_OUT + last;
        }
      }
    }
    return search();
  }

  /** Goes down the last directories; one that a dying writer left empty is passed over. */
  private long search() {
    List<Integer> tops = numbers(DIRECTORY, "");
    for (int t = tops.size() - 1; t >= 0; t--) {
      String top = DIRECTORY + "/" + three(tops.get(t));
      List<Integer> middles = numbers(top, "");
      for (int m = middles.size() - 1; m >= 0; m--) {
        String middle = top + "/" + three(middles.get(m));
        List<Integer> lasts = numbers(middle, "");
        if (!lasts.isEmpty()) {
          long base = ((long) tops.get(t) * FAN_OUT + middles.get(m)) * FAN_OUT;
          // Below the floor entries may be gone, in any order.
          long floor = lasts.get(0) == 0 ? 0 : floor();
          int first = (int) Math.max(0, floor - base);
          lasts.removeIf(number -> number < first);
          checkDense(lasts, first, middle);
          return base + lasts.get(lasts.size() - 1);
        }
      }
    }
    return -1;
  }

  private void checkDense(List<Integer> numbers, int first, String directory) {
    for (int i = 0; i < numbers.size(); i++) {
      if (numbers.get(i) != first + i) {
        throw new DamagedException(
            "The ledger of %s has a hole: entry %s/%s is missing, but later ones exist. Nothing can be read or written safely; restore it from a copy of the lake."
                .formatted(store.location(), directory, three(first + i)));
      }
    }
  }

  private List<Integer> numbers(String directory, String after) {
    List<Integer> numbers = new ArrayList<>();
    for (ObjectStore.Child child : store.list(directory, after, FAN_OUT)) {
      if (child.segment().matches("[0-9]{3}")) {
        numbers.add(Integer.parseInt(child.segment()));
      }
    }
    return numbers;
  }

  private static String three(long number) {
    return "%03d".formatted(number);
  }

  private static String directory(long number) {
    String name = PageHome.entryName(number);
    return name.substring(0, name.lastIndexOf('/'));
  }

  @Override
  public byte[] read(long number) {
    try {
      return store.read(nameOf(number));
    } catch (MissingObjectException e) {
      throw new DamagedException(
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
  public long floor() {
    long floor = 0;
    String after = "";
    List<ObjectStore.Child> children = store.list("floor", after, FAN_OUT);
    while (!children.isEmpty()) {
      for (ObjectStore.Child child : children) {
        if (child.segment().matches("[0-9]{9}")) {
          floor = Math.max(floor, Long.parseLong(child.segment()));
        }
      }
      after = children.get(children.size() - 1).segment();
      children = children.size() < FAN_OUT ? List.of() : store.list("floor", after, FAN_OUT);
    }
    return floor;
  }

  @Override
  public String nameOf(long number) {
    return PageHome.entryName(number);
  }
}
