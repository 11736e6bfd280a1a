package org.ysteron.internal.drift;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.ysteron.data.Field;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.text.NearNames;
import org.ysteron.option.Alteration;
import org.ysteron.option.Drift;
import org.ysteron.option.WriteRules;
import org.ysteron.report.Grown;

/**
 * How a table has to grow for all rows of one load. What comes out depends on which rows there are,
 * never on their order: each column is as wide as the united {@link Findings} of all its values,
 * new columns stand in the order in which their sources have them, and of more new columns than are
 * allowed the first by name are taken.
 *
 * <p>The type that a column has is a floor: values that fit it tell nothing, and what its widenings
 * do not take is refused or set aside, by the rules. For one thread.
 */
public final class Growth {
  private static final int MOST_SHOWN = 100;

  private final TableForm floor;
  private final TableNumbers numbers;
  private final WriteRules rules;
  private final long most;
  private final Map<String, Wanted> wider = new TreeMap<>();
  private final TreeMap<String, Wanted> fresh = new TreeMap<>();
  private String firstOut;
  private long names;

  /**
   * A column that is to be wider, or new.
   *
   * @param parent the path of what it is in
   * @param name its name; of several that differ by case only, the first by code points
   * @param last the last of those
   * @param before the type that it has; empty for a new one
   * @param place where it stands in its source at the most
   * @param now the type that it gets; empty when no type takes all values
   */
  private record Wanted(
      String parent,
      String name,
      String last,
      Optional<Type> before,
      int place,
      Findings findings,
      Optional<Type> now) {

    String path() {
      return Schema.below(parent, name);
    }

    /** How many names it brings. */
    long names() {
      return before.isPresent() ? 0 : 1 + findings.names();
    }

    Alteration.Grow alteration() {
      return new Alteration.Grow(parent, Field.of(name, now.orElseThrow()));
    }
  }

  /** What rows have told so far, and what one more would make of it. */
  record Step(Map<String, Wanted> wanted) {}

  /** {@code most}: how many new columns one load may bring. */
  Growth(TableForm floor, TableNumbers numbers, WriteRules rules, long most) {
    this.floor = floor;
    this.numbers = numbers;
    this.rules = rules;
    this.most = most;
  }

  /**
   * What a row makes of it, which does not count before it is {@linkplain #take taken}.
   *
   * @throws InvalidInputException when the rules refuse it
   */
  Step step(List<RowFitter.Need> needs) {
    Map<String, Wanted> changed = new TreeMap<>();
    List<String> wrong = new ArrayList<>();
    long more = 0;
    for (RowFitter.Need need : needs) {
      String key = Schema.below(need.parent(), Findings.fold(need.name(), rules));
      boolean isNew = need.floor().isEmpty();
      if (isNew && isOut(key)) {
        continue;
      }
      Wanted before =
          changed.containsKey(key) ? changed.get(key) : (isNew ? fresh : wider).get(key);
      try {
        Optional<Wanted> after = united(before, need);
        if (after.isPresent()) {
          more += after.get().names() - (before == null ? 0 : before.names());
          changed.put(key, after.get());
        }
      } catch (InvalidInputException e) {
        wrong.add(e.getMessage());
      }
    }
    if (!wrong.isEmpty()) {
      throw new InvalidInputException(String.join("; ", wrong));
    }
    if (names + more > most && !rules.drift().setsAside()) {
      throw new InvalidInputException(
          "it would add more than %d new columns, the limit of the setting drift.max.columns; raise the limit, or use the rule %s to keep further values as leftovers"
              .formatted(most, Drift.GROW_OR_SET_ASIDE.word()));
    }
    return new Step(changed);
  }

  private boolean isOut(String key) {
    return firstOut != null && key.compareTo(firstOut) >= 0;
  }

  /** A column with what one more value needs; empty when that changes nothing. */
  private Optional<Wanted> united(Wanted before, RowFitter.Need need) {
    if (before == null) {
      return Optional.of(
          wanted(
              need.parent(),
              need.name(),
              need.name(),
              need.floor(),
              need.place(),
              need.findings(),
              Optional.empty(),
              need.why()));
    }
    Findings both = before.findings.and(need.findings());
    String name = before.name.compareTo(need.name()) <= 0 ? before.name : need.name();
    String last = before.last.compareTo(need.name()) >= 0 ? before.last : need.name();
    int place = Math.max(before.place, need.place());
    boolean same =
        both == before.findings
            && name.equals(before.name)
            && last.equals(before.last)
            && place == before.place;
    return same
        ? Optional.empty()
        : Optional.of(
            wanted(need.parent(), name, last, before.before, place, both, before.now, need.why()));
  }

  private Wanted wanted(
      String parent,
      String name,
      String last,
      Optional<Type> before,
      int place,
      Findings findings,
      Optional<Type> had,
      String why) {
    Optional<Type> now = before.map(findings::above).orElseGet(findings::type);
    Wanted wanted = new Wanted(parent, name, last, before, place, findings, now);
    if (!rules.drift().setsAside()) {
      boolean isOpen = before.isEmpty() && findings.isNothing();
      if (now.isEmpty() && !isOpen) {
        throw new InvalidInputException(
            before.isPresent()
                ? why
                : "column %s cannot be added: no type takes all its values"
                    .formatted(NearNames.shown(wanted.path())));
      }
      if (now.isPresent() && !now.equals(had)) {
        apply(wanted.alteration(), editor());
      }
    }
    return wanted;
  }

  private FormEditor editor() {
    return new FormEditor(floor, numbers);
  }

  private static void apply(Alteration.Grow alteration, FormEditor editor) {
    try {
      editor.apply(alteration);
    } catch (InvalidInputException | NotFoundException e) {
      throw new InvalidInputException(
          "column %s cannot be added or become %s: %s"
              .formatted(
                  NearNames.shown(Schema.below(alteration.parent(), alteration.field().name())),
                  shown(alteration.field().type()),
                  e.getMessage().replaceFirst("\\.$", "")),
          NearNames.shown(Schema.below(alteration.parent(), alteration.field().name())),
          e);
    }
  }

  private static String shown(Type type) {
    String text = type.toString();
    return text.length() <= MOST_SHOWN ? text : text.substring(0, MOST_SHOWN) + "…";
  }

  private boolean isPossible(Wanted wanted) {
    try {
      apply(wanted.alteration(), editor());
      return true;
    } catch (InvalidInputException e) {
      return false;
    }
  }

  /** Counts what a row has told. */
  void take(Step step) {
    step.wanted.forEach(
        (key, wanted) -> {
          Wanted before = (wanted.before.isEmpty() ? fresh : wider).put(key, wanted);
          names += wanted.names() - (before == null ? 0 : before.names());
        });
    while (names > most && rules.drift().setsAside()) {
      // All that is behind it by name is out for good: what is before it only becomes more.
      Map.Entry<String, Wanted> last = fresh.pollLastEntry();
      firstOut = last.getKey();
      names -= last.getValue().names();
    }
  }

  /** The table with the columns wider that it has, as they are to be after a step. */
  TableForm widened(Step step) {
    Map<String, Wanted> all = new TreeMap<>(wider);
    step.wanted.forEach(
        (key, wanted) -> {
          if (wanted.before.isPresent()) {
            all.put(key, wanted);
          }
        });
    FormEditor editor = editor();
    all.values().stream()
        .filter(wanted -> wanted.now.isPresent() && isPossible(wanted))
        .forEach(wanted -> apply(wanted.alteration(), editor));
    return editor.form();
  }

  /** Whether a step changes what {@link #widened} comes to. */
  boolean widens(Step step) {
    return step.wanted.entrySet().stream()
        .anyMatch(
            entry -> {
              Wanted had = wider.get(entry.getKey());
              Wanted has = entry.getValue();
              return has.before.isPresent() && (had == null || !had.now.equals(has.now));
            });
  }

  private List<Wanted> possible() {
    List<Wanted> possible = new ArrayList<>();
    wider.values().stream().filter(this::isDone).forEach(possible::add);
    fresh.values().stream()
        .filter(this::isDone)
        .sorted(
            Comparator.comparing(Wanted::parent)
                .thenComparingInt(Wanted::place)
                .thenComparing(Wanted::name))
        .forEach(possible::add);
    return possible;
  }

  private boolean isDone(Wanted wanted) {
    return wanted.now.isPresent() && (!rules.drift().setsAside() || isPossible(wanted));
  }

  /** What has to be altered for the rows there were. */
  List<Alteration> alterations() {
    List<Alteration> alterations = new ArrayList<>();
    List<Wanted> possible = possible();
    possible.stream()
        .filter(wanted -> !wanted.now.equals(wanted.before))
        .forEach(wanted -> alterations.add(wanted.alteration()));
    if (leaves() && floor.leftoversColumn().isEmpty()) {
      List<String> taken =
          possible.stream().filter(wanted -> wanted.parent.isEmpty()).map(Wanted::name).toList();
      alterations.addAll(leftovers(floor.schema(), taken));
    }
    return alterations;
  }

  /** Whether something is left over that no column takes. */
  boolean leaves() {
    long telling = fresh.values().stream().filter(wanted -> !wanted.findings.isNothing()).count();
    boolean inside = fresh.values().stream().anyMatch(wanted -> wanted.findings.leaves());
    return inside || firstOut != null || possible().size() < wider.size() + telling;
  }

  /** What makes a column for what is left over, under a name that is free. */
  static List<Alteration> leftovers(Schema schema, List<String> taken) {
    String name = "leftovers";
    while (schema.struct().indexOf(name) >= 0 || taken.contains(name)) {
      name += "_";
    }
    return List.of(
        new Alteration.Grow("", Field.of(name, Types.JSON)),
        new Alteration.SetLeftovers(Optional.of(Schema.path(List.of(name)))));
  }

  /** What there is to say of it. */
  Grown grown() {
    List<String> words = new ArrayList<>();
    for (Wanted wanted : possible()) {
      if (!wanted.name.equals(wanted.last)) {
        words.add(met(wanted.path(), Schema.below(wanted.parent, wanted.last)));
      }
      wanted.findings.met().forEach(two -> words.add(met(two.get(0), two.get(1))));
    }
    if (!rules.ignoreCase()) {
      words.addAll(apart());
    }
    return grown(floor, alterations(), words);
  }

  private static String met(String one, String other) {
    return "%s and %s differ by case only and are the same column".formatted(one, other);
  }

  /** Columns that stay apart though their names differ by case only. */
  private List<String> apart() {
    Map<String, String> known = new HashMap<>();
    floor.schema().columns().forEach(column -> see("", column, known));
    List<String> words = new ArrayList<>();
    for (Wanted wanted : possible()) {
      String path = wanted.path();
      String other = known.put(path.toLowerCase(Locale.ROOT), path);
      if (other != null && !other.equals(path)) {
        words.add(
            "%s and %s differ by case only and are two columns, unless case is ignored"
                .formatted(other, path));
      }
    }
    return words;
  }

  private static void see(String parent, Field field, Map<String, String> known) {
    String path = Schema.below(parent, field.name());
    known.put(path.toLowerCase(Locale.ROOT), path);
    Schema.children(field.type()).forEach(inner -> see(path, inner, known));
  }

  /** What alterations of a table for rows come to. */
  public static Grown grown(TableForm floor, List<Alteration> alterations, List<String> words) {
    List<Grown.Column> columns = new ArrayList<>();
    for (Alteration alteration : alterations) {
      if (alteration instanceof Alteration.Grow grow) {
        Optional<Type> before = grow.there(floor.schema()).map(Field::type);
        columns.add(new Grown.Column(grow.path(), before, grow.field().type()));
      }
    }
    return new Grown(columns, words);
  }
}
