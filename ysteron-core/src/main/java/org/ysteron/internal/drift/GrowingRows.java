package org.ysteron.internal.drift;

import java.nio.file.Path;
import java.util.List;
import java.util.function.Function;
import java.util.function.Supplier;
import org.ysteron.data.Field;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.option.Alteration;
import org.ysteron.option.TableSettings;
import org.ysteron.option.WriteRules;
import org.ysteron.report.Grown;

/**
 * Rows that wait for the table to have grown by all of them: they are looked at as they come, kept
 * as they came, and fitted when all are there. A row that is taken fits then, but for one of which
 * something is set aside that must not be null. For one thread.
 */
public final class GrowingRows implements AutoCloseable {
  private final WriteRules rules;
  private final RowFitter fitter;
  private final Growth growth;
  private final RawRows rows;
  private final Function<TableForm, Target> checks;
  private final Defaults defaults;
  private final List<Field> columns;
  private Target check;
  private RowFitter widened;

  /**
   * For rows of a table.
   *
   * @param floor the table as it is
   * @param temporary the directory for temporary files
   * @param checks gives for a table what looks at rows of it, and throws what is wrong with them;
   *     null when nothing but the types of its columns is asked of rows
   * @param defaults what rows get that leave out a column whose default is computed
   */
  public GrowingRows(
      TableForm floor,
      TableNumbers numbers,
      TableSettings settings,
      WriteRules rules,
      Path temporary,
      Function<TableForm, Target> checks,
      Defaults defaults) {
    this.defaults = defaults;
    this.columns = floor.schema().columns();
    this.rows = new RawRows(temporary);
    this.rules = rules;
    this.fitter = fitter(floor, rules);
    this.growth = new Growth(floor, numbers, rules, settings.number(TableSettings.MAX_COLUMNS));
    this.checks = checks;
  }

  /** What fits rows to a table. */
  public static RowFitter fitter(TableForm form, WriteRules rules) {
    return new RowFitter(form.schema(), rules, leftoversAt(form));
  }

  private static int leftoversAt(TableForm form) {
    return form.leftoversColumn().map(column -> form.schema().columns().indexOf(column)).orElse(-1);
  }

  private static RowFitter grown(TableForm form, WriteRules rules) {
    return RowFitter.grown(form.schema(), rules, leftoversAt(form));
  }

  /**
   * Takes a row.
   *
   * @param number counts rows, for messages
   * @param row as {@link RowFitter#fit} takes it
   * @throws InvalidInputException when it is refused; it is left out then
   */
  public void add(long number, Object row) {
    Growth.Step step = told(number, () -> looked(number, row));
    if (checks != null) {
      check(number, row, step);
    }
    growth.take(step);
    rows.add();
  }

  private Growth.Step looked(long number, Object row) {
    RowFitter.Fitted fitted = fitter.fit(row);
    defaults.in(fitted.values(), columns);
    rows.prepare(number, fitter.kept(row, fitted));
    return growth.step(fitted.needs());
  }

  /** Looks at a row as the table would have it if this were the last one. */
  private void check(long number, Object row, Growth.Step step) {
    if (check == null || growth.widens(step)) {
      TableForm form = growth.widened(step);
      widened = grown(form, rules);
      check = checks.apply(form);
    }
    try {
      check.row(number, told(number, () -> widened.fit(row)).values());
    } catch (RuntimeException e) {
      check = null; // the table may be as this row would have it
      throw e;
    }
  }

  /** Does what may refuse a row, and says which it was. */
  public static <T> T told(long number, Supplier<T> work) {
    try {
      return work.get();
    } catch (InvalidInputException e) {
      throw refused(number, e);
    }
  }

  private static InvalidInputException refused(long row, InvalidInputException why) {
    return why instanceof RejectedRowException refused
        ? refused.as(row)
        : new RejectedRowException(row, why.getMessage().replaceFirst("\\.$", ""), why);
  }

  /** Rows taken. */
  public long rows() {
    return rows.rows();
  }

  /** About the bytes that they take. */
  public long bytes() {
    return rows.bytes();
  }

  /** What makes a column for what is left over, where there is none. */
  public static List<Alteration> leftovers(TableForm form) {
    return Growth.leftovers(form.schema(), List.of());
  }

  /** What the table has to be altered by. */
  public List<Alteration> alterations() {
    return growth.alterations();
  }

  /** What there is to say of how the table grows. */
  public Grown grown() {
    return growth.grown();
  }

  /** Takes rows that fit. */
  @FunctionalInterface
  public interface Target {
    /** A row by all values. */
    void row(long number, Object[] values);
  }

  /** Takes what is wrong with a row that was taken and does not fit. */
  @FunctionalInterface
  public interface Misfit {
    void row(long number, InvalidInputException why);
  }

  /** Hands on all rows as the grown table takes them. */
  public void forEach(TableForm grown, Target target, Misfit misfit) {
    RowFitter last = grown(grown, rules);
    rows.forEach(
        (number, row) -> {
          Object[] values;
          try {
            values = told(number, () -> whole(last.fit(row)));
          } catch (InvalidInputException e) {
            misfit.row(number, e);
            return;
          }
          target.row(number, values);
        });
  }

  /** The values of a row of which nothing is left without a place. */
  static Object[] whole(RowFitter.Fitted fitted) {
    if (!fitted.fits()) {
      throw new InvalidInputException(
          "it has values without a column, and the table has no leftovers column");
    }
    return fitted.values();
  }

  @Override
  public void close() {
    rows.close();
  }
}
