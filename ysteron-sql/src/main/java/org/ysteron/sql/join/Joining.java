package org.ysteron.sql.join;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.SelectedBatch;
import org.ysteron.data.Types;
import org.ysteron.data.Vector;
import org.ysteron.internal.evaluate.Selecting;
import org.ysteron.internal.read.Source;
import org.ysteron.internal.rows.Gather;
import org.ysteron.sql.keep.Chained;
import org.ysteron.sql.keep.Keys;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.keep.Running;
import org.ysteron.sql.keep.Selected;
import org.ysteron.sql.keep.Spill;

/** A join that is carried out. For one thread. */
final class Joining implements Source<SelectedBatch> {
  private static final int PAIRS = 8192;

  private final JoinStep join;
  private final Running running;
  private final Optional<BuiltSide> shared;
  private final Optional<Selecting> rest;
  private BuiltSide built;
  private Keys finding;
  private Optional<MarkNulls.Rights> rights;
  private MarkNulls markNulls;
  private Source<SelectedBatch> left;
  private Spill leftSpill;
  private Source<SelectedBatch> parted;
  private SelectedBatch batch;
  private int[] found = {};
  private boolean[] matched = {};
  private boolean[] rightMatched;
  private int row;
  private int partner = -1;
  private boolean pairsDone;
  private int unmatched;
  private final int[] lefts = new int[PAIRS];
  private final int[] partners = new int[PAIRS];
  private final int[] passed = new int[PAIRS];

  /**
   * Begins.
   *
   * @param shared the right rows, when they have been read, which somebody else closes
   * @param rights all right rows, when the join has a part of them only
   */
  Joining(
      JoinStep join,
      Optional<BuiltSide> shared,
      Optional<MarkNulls.Rights> rights,
      Running running) {
    this.join = join;
    this.shared = shared;
    this.rights = rights;
    this.running = running;
    this.rest = join.rest().map(condition -> running.selecting(condition, join.both()));
  }

  @Override
  public Optional<SelectedBatch> next() {
    if (built == null) {
      built = shared.orElseGet(() -> new BuiltSide(join, running));
      finding = built.finding(join);
      rights = rights.or(() -> Optional.of(built.rights()));
      rightMatched = new boolean[join.kind().marksRight() ? built.rows() : 0];
      left = (shared.isPresent() ? join.left() : built.restricted(join)).open(running);
      if (built.spill() != null) {
        leftSpill = built.spillLeft(join, finding, left);
        parted = Chained.of(Spill.PARTS, this::ofPart);
      }
    }
    if (parted != null) {
      Optional<SelectedBatch> joined = parted.next();
      if (joined.isEmpty()) {
        close();
      }
      return joined;
    }
    while (true) {
      if (batch == null) {
        Optional<SelectedBatch> more = left.next();
        if (more.isEmpty()) {
          return rightAlone();
        }
        begin(more.get());
      }
      Optional<SelectedBatch> made = pairsDone ? ended() : pairs();
      if (made.isPresent()) {
        return made;
      }
    }
  }

  /** The join of the rows of a part. */
  private Source<SelectedBatch> ofPart(int part) {
    JoinStep of = join.ofParts(leftSpill.part(part), built.spill().part(part));
    return new Joining(of, Optional.empty(), rights, running.deeper());
  }

  private void begin(SelectedBatch more) {
    batch = more;
    int count = more.count();
    if (found.length < count) {
      found = new int[count];
      matched = new boolean[count];
    }
    Arrays.fill(matched, 0, count, false);
    built.find(finding, batch, found, join.nullsMeet());
    row = -1;
    partner = -1;
    pairsDone = false;
    if (join.kind().firstDecides() && rest.isEmpty()) {
      for (int i = 0; i < count; i++) {
        matched[i] = found[i] >= 0;
      }
      pairsDone = true;
    }
  }

  /** The next pairs of the batch; none when those looked at did not pass. */
  private Optional<SelectedBatch> pairs() {
    running.check();
    int count = 0;
    while (count < PAIRS) {
      if (partner < 0) {
        row++;
        if (row == batch.count()) {
          pairsDone = true;
          break;
        }
        partner = found[row];
        continue;
      }
      lefts[count] = row;
      partners[count++] = partner;
      partner = built.next(partner);
      if (join.kind().firstDecides() && matched[row]) {
        partner = -1;
      }
    }
    if (count == 0) {
      return Optional.empty();
    }
    boolean needed = rest.isPresent() || join.kind().pairs();
    Batch pairs =
        needed ? paired(positions(lefts, count), Arrays.copyOf(partners, count), count) : null;
    int kept = count;
    if (rest.isPresent()) {
      kept = rest.get().select(pairs, Selected.upTo(count), count, passed);
    }
    for (int i = 0; i < kept; i++) {
      int at = rest.isPresent() ? passed[i] : i;
      matched[lefts[at]] = true;
      if (rightMatched.length > 0) {
        rightMatched[partners[at]] = true;
      }
    }
    return kept == 0 || !join.kind().pairs()
        ? Optional.empty()
        : Optional.of(
            new SelectedBatch(pairs, rest.isPresent() ? Arrays.copyOf(passed, kept) : null, kept));
  }

  private int[] positions(int[] numbers, int count) {
    int[] at = Selected.rows(batch);
    int[] positions = new int[count];
    for (int i = 0; i < count; i++) {
      positions[i] = at[numbers[i]];
    }
    return positions;
  }

  private Batch paired(int[] leftRows, int[] rightRows, int count) {
    List<Vector> vectors = new ArrayList<>();
    vectors.addAll(Gather.rows(batch.batch(), leftRows).vectors());
    vectors.addAll(Gather.rows(built.all(), rightRows).vectors());
    return new Batch(join.both().struct(), count, vectors);
  }

  /** What a batch gives when all its pairs are known. */
  private Optional<SelectedBatch> ended() {
    SelectedBatch of = batch;
    batch = null;
    return switch (join.kind()) {
      case INNER, RIGHT, RIGHT_SEMI, RIGHT_ANTI -> Optional.empty();
      case LEFT, FULL -> leftAlone(of);
      case SEMI -> chosen(of, true);
      case ANTI -> chosen(of, false);
      case MARK -> Optional.of(marked(of));
    };
  }

  private Optional<SelectedBatch> chosen(SelectedBatch of, boolean withPartner) {
    int[] all = Selected.rows(of);
    int[] kept = new int[of.count()];
    int count = 0;
    for (int i = 0; i < of.count(); i++) {
      if (matched[i] == withPartner) {
        kept[count++] = all[i];
      }
    }
    Batch same = new Batch(join.columns().struct(), of.batch().size(), of.batch().vectors());
    return count == 0 ? Optional.empty() : Optional.of(new SelectedBatch(same, kept, count));
  }

  private Optional<SelectedBatch> leftAlone(SelectedBatch of) {
    int[] alone = new int[of.count()];
    int count = 0;
    for (int i = 0; i < of.count(); i++) {
      if (!matched[i]) {
        alone[count++] = i;
      }
    }
    if (count == 0) {
      return Optional.empty();
    }
    batch = of;
    int[] none = new int[count];
    Arrays.fill(none, built.rows());
    Batch rows = paired(positions(alone, count), none, count);
    batch = null;
    return Optional.of(new SelectedBatch(rows, null, count));
  }

  private SelectedBatch marked(SelectedBatch of) {
    Batch rows = Selected.dense(of);
    int count = rows.size();
    boolean[] marks = Arrays.copyOf(matched, count);
    markNulls = markNulls == null ? new MarkNulls(join, rights.orElseThrow(), running) : markNulls;
    long[] unknown = markNulls.unknown(rows, marks);
    List<Vector> vectors = new ArrayList<>(rows.vectors());
    vectors.add(new Vector.OfBoolean(Types.BOOLEAN, count, marks, unknown));
    return new SelectedBatch(new Batch(join.columns().struct(), count, vectors), null, count);
  }

  /** The right rows that have met none. */
  private Optional<SelectedBatch> rightAlone() {
    int[] alone = new int[Math.min(PAIRS, rightMatched.length)];
    int count = 0;
    while (unmatched < rightMatched.length && count < alone.length) {
      if (rightMatched[unmatched] == (join.kind() == JoinStep.Kind.RIGHT_SEMI)) {
        alone[count++] = unmatched;
      }
      unmatched++;
    }
    if (count == 0) {
      if (shared.isEmpty()) {
        built.release();
      }
      return Optional.empty();
    }
    List<Field> beside = join.kind().pairs() ? join.left().columns().columns() : List.of();
    List<Vector> vectors = new ArrayList<>();
    for (Field field : beside) {
      vectors.add(Made.nulls(field.type(), count));
    }
    vectors.addAll(Gather.rows(built.all(), Arrays.copyOf(alone, count)).vectors());
    return Optional.of(
        new SelectedBatch(new Batch(join.columns().struct(), count, vectors), null, count));
  }

  @Override
  public void close() {
    if (left != null) {
      left.close();
    }
    if (built != null && shared.isEmpty()) {
      built.close();
    }
    if (parted != null) {
      parted.close();
    }
    if (leftSpill != null) {
      leftSpill.close();
    }
  }
}
