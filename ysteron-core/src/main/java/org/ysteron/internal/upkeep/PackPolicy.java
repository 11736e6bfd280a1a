package org.ysteron.internal.upkeep;

import java.util.ArrayList;
import java.util.List;

/**
 * Which files of one partition are worth packing, and with which others.
 *
 * <p>A read pays for every file it opens, a packing for every byte it writes anew. To pack all
 * small files whenever there are some would keep the files fewest, and rewrite every byte again and
 * again; to wait until they fill a whole file would rewrite each byte once, and leave a thousand
 * small files waiting. In between, the cost that is kept least is the number of small files plus
 * the number of times a byte is written, each for as long as the table grows:
 *
 * <ol>
 *   <li>A file whose rows that count fill at least half the target is full. It is packed again only
 *       when one of {@value #MASKED_SHARE} of its rows is masked, alone: that writes four bytes for
 *       each one that it frees, at most.
 *   <li>All others are small. A small file weighs what its rows that count will take in a large
 *       one: so many rows by the bytes each takes in the file with the most rows. Sizes would not
 *       do, for a file of one row is as large as one of ten.
 *   <li>Small files are in classes: class 0 is from a tenth of half the target up to half of it,
 *       class 1 from a hundredth to a tenth, and so on.
 *   <li>The heaviest class that has {@value #MANY} files is packed, and with it all lighter ones;
 *       what these would be packed to counts as one file of the class it would be in.
 *   <li>A small file with many masked rows is packed whatever its class, by itself if need be:
 *       masked rows count before size does.
 *   <li>What is packed is cut, in the order of the tree, into groups of about the target's weight,
 *       each of which becomes one file.
 * </ol>
 *
 * <p>So whenever a byte is written anew it comes to lie in a file of a heavier class: with files of
 * a thousandth of the target that is three times, with ten times smaller ones once more. And after
 * a run no class has {@value #MANY} files: of such files at most twenty-seven are below half the
 * target. Thoroughly, two small files are packed whatever their classes, which keeps one small file
 * and bounds nothing.
 */
final class PackPolicy {
  private static final int MANY = 10;
  private static final int MASKED_SHARE = 5;

  private final long target;
  private final boolean thorough;

  /**
   * What of a file decides.
   *
   * @param bytes its size
   * @param rows its rows, masked ones included
   * @param live its rows that count
   */
  record Packable(long bytes, long rows, long live) {
    private double liveBytes() {
      return rows == 0 ? 0 : (double) bytes * live / rows;
    }

    private boolean isMasked() {
      return (rows - live) * MASKED_SHARE >= rows && live < rows;
    }
  }

  /**
   * A policy.
   *
   * @param target bytes that a file is to have
   * @param thorough whether all small files are packed, whatever that costs
   */
  PackPolicy(long target, boolean thorough) {
    this.target = target;
    this.thorough = thorough;
  }

  boolean isFull(Packable file) {
    return file.liveBytes() * 2 >= target;
  }

  /** Whether a file may ever be in a group. */
  boolean concerns(Packable file) {
    return !isFull(file) || file.isMasked();
  }

  /**
   * The groups to pack.
   *
   * @param files files of one partition, those that it concerns at least, in the order of the tree
   * @return the positions of each group's files, ascending; no file is in two
   */
  List<List<Integer>> groups(List<Packable> files) {
    List<List<Integer>> groups = new ArrayList<>();
    double rowBytes = rowBytes(files);
    double[] weights = new double[files.size()];
    int[] classes = new int[files.size()];
    List<List<Integer>> byClass = new ArrayList<>();
    for (int i = 0; i < classes.length; i++) {
      Packable file = files.get(i);
      classes[i] = -1;
      if (isFull(file)) {
        if (file.isMasked()) {
          groups.add(List.of(i));
        }
        continue;
      }
      weights[i] = file.live() * rowBytes;
      classes[i] = classOf(weights[i]);
      while (byClass.size() <= classes[i]) {
        byClass.add(new ArrayList<>());
      }
      byClass.get(classes[i]).add(i);
    }
    int heaviest = heaviest(byClass, weights);
    List<Integer> packed = new ArrayList<>();
    for (int i = 0; i < classes.length; i++) {
      boolean isPacked = heaviest >= 0 && classes[i] >= heaviest;
      if (isPacked || (classes[i] >= 0 && files.get(i).isMasked())) {
        packed.add(i);
      }
    }
    if (!packed.isEmpty()) {
      groups.addAll(cut(packed, weights));
    }
    return groups;
  }

  /** The bytes of a row in the file with the most rows. */
  private static double rowBytes(List<Packable> files) {
    Packable largest = new Packable(1, 1, 1);
    for (Packable file : files) {
      largest = file.rows() > largest.rows() || largest.rows() == 1 ? file : largest;
    }
    return Math.max(1, (double) largest.bytes() / Math.max(1, largest.rows()));
  }

  private int classOf(double weight) {
    return (int) Math.max(0, Math.floor(Math.log10(target / 2.0 / Math.max(1, weight))));
  }

  /** The heaviest class that has many files, going on from the lightest; -1 for none. */
  private int heaviest(List<List<Integer>> byClass, double[] weights) {
    if (thorough) {
      return byClass.stream().mapToInt(List::size).sum() > 1 ? 0 : -1;
    }
    int heaviest = -1;
    double weight = 0;
    double lighter = 0;
    for (int c = byClass.size() - 1; c >= 0; c--) {
      boolean hasPacked = heaviest >= 0 && classOf(weight) <= c;
      int count = byClass.get(c).size() + (hasPacked ? 1 : 0);
      lighter += byClass.get(c).stream().mapToDouble(i -> weights[i]).sum();
      if (count >= MANY) {
        heaviest = c;
        weight = lighter;
      }
    }
    return heaviest;
  }

  /** Cuts files, in their order, where the weights come nearest to equal shares. */
  private List<List<Integer>> cut(List<Integer> packed, double[] weights) {
    double all = packed.stream().mapToDouble(i -> weights[i]).sum();
    long count = (long) (all / target);
    count = count <= 1 ? (all * 2 >= 3.0 * target ? 2 : 1) : count;
    List<List<Integer>> groups = new ArrayList<>();
    List<Integer> group = new ArrayList<>();
    double before = 0;
    for (int i : packed) {
      double end = all * (groups.size() + 1) / count;
      if (!group.isEmpty() && before + weights[i] / 2 > end && groups.size() + 1 < count) {
        groups.add(group);
        group = new ArrayList<>();
      }
      group.add(i);
      before += weights[i];
    }
    groups.add(group);
    return groups;
  }
}
