package org.ysteron.internal.drift;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.option.Alteration;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.report.Grown;

/**
 * The rows of a merge's source as they came, whose columns may not be the table's. They are read
 * once, and fitted to the table as often as the merge runs. A column that none of them has is none
 * of the source's. For one thread.
 */
public final class SourceRows implements AutoCloseable {
  private final WriteRules rules;
  private final TableSettings settings;
  private final RawRows rows;
  private Look look;

  /** What the rows ask of a form of the table. */
  private static final class Look {
    private final TableForm floor;
    private final RowFitter fitter;
    private final Growth growth;
    private final WriteRules rules;

    /** The names of the table's columns that no row had yet. */
    private final Set<String> unseen = new HashSet<>();

    private List<String> lastNames;
    private boolean leaves;

    Look(TableForm floor, TableSettings settings, WriteRules rules) {
      this.floor = floor;
      this.rules = rules;
      floor.schema().columns().forEach(column -> unseen.add(Findings.fold(column.name(), rules)));
      this.fitter = RowFitter.partial(floor.schema(), rules, -1);
      TableNumbers numbers = TableNumbers.of(floor);
      this.growth = new Growth(floor, numbers, rules, settings.number(TableSettings.MAX_COLUMNS));
    }

    Growth.Step at(long number, Object row) {
      return GrowingRows.told(
          number,
          () -> {
            RowFitter.Fitted fitted = fitter.fit(row);
            leaves |= fitted.leaves();
            see(row);
            return growth.step(fitted.needs());
          });
    }

    private void see(Object row) {
      if (unseen.isEmpty()) {
        return;
      }
      if (row instanceof TextRow texts) {
        if (texts.names() != lastNames) {
          lastNames = texts.names();
          lastNames.forEach(this::see);
        }
      } else if (row instanceof Row values) {
        values.fields().forEach(field -> see(field.name()));
      } else {
        ((Map<?, ?>) row).keySet().forEach(name -> see((String) name));
      }
    }

    private void see(String name) {
      unseen.remove(Findings.fold(name, rules));
    }

    boolean isSeen(Field column) {
      return !unseen.contains(Findings.fold(column.name(), rules));
    }

    List<Alteration> alterations() {
      return leaves && floor.leftoversColumn().isEmpty()
          ? GrowingRows.leftovers(floor)
          : growth.alterations();
    }

    boolean leavesSomething() {
      return leaves || growth.leaves();
    }
  }

  /**
   * For a table as it is now; it may be another when the merge runs.
   *
   * @param temporary the directory for temporary files
   */
  public SourceRows(TableForm form, TableSettings settings, WriteRules rules, Path temporary) {
    this.rows = new RawRows(temporary);
    this.rules = rules;
    this.settings = settings;
    this.look = new Look(form, settings, rules);
  }

  /**
   * Adds a row.
   *
   * @param row as {@link RowFitter#fit} takes it
   * @throws org.ysteron.error.InvalidInputException when it does not fit by the rules
   */
  public void add(Object row) {
    long number = rows.rows() + 1;
    Growth.Step step = look.at(number, row);
    GrowingRows.told(
        number,
        () -> {
          rows.prepare(number, row);
          return null;
        });
    look.growth.take(step);
    rows.add();
  }

  /** What a table has to be altered by for the rows. */
  public List<Alteration> alterations(TableForm floor) {
    if (floor.schemaVersion() != look.floor.schemaVersion()) {
      look = new Look(floor, settings, rules);
      rows.forEach((number, row) -> look.growth.take(look.at(number, row)));
    }
    return look.alterations();
  }

  /** How the table grows. */
  public Grown grown() {
    return Growth.grown(look.floor, look.alterations(), look.growth.grown().words());
  }

  /** The columns of the grown table that the source has; all of them when it has no rows. */
  public List<Field> columns(TableForm grown) {
    List<Field> columns = new ArrayList<>();
    for (Field column : grown.schema().columns()) {
      boolean takesTheRest =
          look.leavesSomething()
              && grown.leftoversColumn().filter(rest -> rest.id() == column.id()).isPresent();
      if (takesTheRest || rows.rows() == 0 || look.isSeen(column)) {
        columns.add(column);
      }
    }
    return columns;
  }

  /** Hands on all rows by the values of the source's columns. */
  public void forEach(TableForm grown, GrowingRows.Target target) {
    List<Field> columns = columns(grown);
    Schema narrow = Schema.stored(columns, List.of(), grown.schema().lastId());
    int leftovers = grown.leftoversColumn().map(columns::indexOf).orElse(-1);
    RowFitter fitter = RowFitter.grown(narrow, rules, leftovers);
    rows.forEach(
        (number, row) ->
            target.row(number, GrowingRows.told(number, () -> GrowingRows.whole(fitter.fit(row)))));
  }

  @Override
  public void close() {
    rows.close();
  }
}
