package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.statement.StatementRunner;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.option.Alteration;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.LayoutPlan;
import org.ysteron.report.ChangeReport;
import org.ysteron.report.WriteResult;

/**
 * Changes the columns, constraints, layout and settings of a table, in one commit. Data files are
 * not rewritten, so it takes as long for ten rows as for ten billion; only a new NOT NULL, check or
 * key may have to be tested on the existing rows. Immutable: each method returns another one. A
 * column is a path: it leads into structs, lists ({@code element}) and maps ({@code value}).
 *
 * <pre>{@code
 * table.alter()
 *     .add(Field.of("salinity", Types.DOUBLE))
 *     .rename("level_cm", "level")
 *     .widen("battery_mv", Types.BIGINT)
 *     .run();
 * }</pre>
 */
public final class Alter {
  private final StatementRunner runner;
  private final List<Alteration> alterations;

  Alter(StatementRunner runner) {
    this(runner, List.of());
  }

  private Alter(StatementRunner runner, List<Alteration> alterations) {
    this.runner = runner;
    this.alterations = alterations;
  }

  /** Alterations given as a list. */
  @CheckReturnValue
  public Alter all(List<Alteration> more) {
    List<Alteration> longer = new ArrayList<>(alterations);
    longer.addAll(more);
    return new Alter(runner, longer);
  }

  private Alter also(Alteration one) {
    return all(List.of(one));
  }

  /**
   * Adds a column behind the others. Rows that are there have its default, or null, also when the
   * default changes later.
   */
  @CheckReturnValue
  public Alter add(Field column) {
    return add(column, Place.LAST);
  }

  /** Adds a column at a place. */
  @CheckReturnValue
  public Alter add(Field column, Place place) {
    return also(new Alteration.AddColumn("", column, place));
  }

  /** Adds a field to a struct. */
  @CheckReturnValue
  public Alter addIn(String struct, Field field, Place place) {
    return also(new Alteration.AddColumn(struct, field, place));
  }

  /** Drops a column. A column of the same name that is added later is a different column. */
  @CheckReturnValue
  public Alter drop(String path) {
    return also(new Alteration.DropColumn(path));
  }

  /** Renames a column. */
  @CheckReturnValue
  public Alter rename(String path, String newName) {
    return also(new Alteration.RenameColumn(path, newName));
  }

  /** Moves a column among its siblings. */
  @CheckReturnValue
  public Alter move(String path, Place place) {
    return also(new Alteration.MoveColumn(path, place));
  }

  /** Widens a column to a type that holds all its values exactly. */
  @CheckReturnValue
  public Alter widen(String path, Type type) {
    return also(new Alteration.WidenColumn(path, type));
  }

  /** Makes a column NOT NULL; fails if a row has null in it. */
  @CheckReturnValue
  public Alter notNull(String path) {
    return also(new Alteration.SetRequired(path, true));
  }

  /** Makes a column nullable. */
  @CheckReturnValue
  public Alter nullable(String path) {
    return also(new Alteration.SetRequired(path, false));
  }

  /** Sets the default of a column for rows that are written from now on. */
  @CheckReturnValue
  public Alter setDefault(String path, Object value) {
    return also(new Alteration.SetDefault(path, Optional.of(value)));
  }

  /** Drops the default of a column. */
  @CheckReturnValue
  public Alter dropDefault(String path) {
    return also(new Alteration.SetDefault(path, Optional.empty()));
  }

  /** Sets the comment of a column. */
  @CheckReturnValue
  public Alter comment(String path, String text) {
    return also(new Alteration.SetComment(path, text));
  }

  /** Sets the primary key; fails if two rows have the same key. */
  @CheckReturnValue
  public Alter key(String... columns) {
    return also(new Alteration.SetKey(List.of(columns)));
  }

  /** Drops the primary key; its columns stay NOT NULL. */
  @CheckReturnValue
  public Alter dropKey() {
    return also(new Alteration.SetKey(List.of()));
  }

  /** Adds a check constraint; fails if the condition is false for a row. */
  @CheckReturnValue
  public Alter check(String name, Condition condition) {
    return also(new Alteration.AddCheck(name, condition));
  }

  /** Drops a check constraint. */
  @CheckReturnValue
  public Alter dropCheck(String name) {
    return also(new Alteration.DropCheck(name));
  }

  /** Sets the leftovers column, of type JSON, for values that have no column. */
  @CheckReturnValue
  public Alter leftovers(String column) {
    return also(new Alteration.SetLeftovers(Optional.of(column)));
  }

  /** Sets the layout for files that are written from now on; existing files stay as they are. */
  @CheckReturnValue
  public Alter layout(LayoutPlan plan) {
    return also(new Alteration.SetLayout(plan));
  }

  /** Changes a setting (see {@link org.ysteron.option.TableSettings}). */
  @CheckReturnValue
  public Alter set(String setting, Object value) {
    return also(new Alteration.SetSetting(setting, value));
  }

  /** Runs the statement. */
  public WriteResult run() {
    return run("");
  }

  /**
   * Runs the statement.
   *
   * @param note for the commit
   * @return the commit; none inside a transaction, which commits it with the rest
   * @throws org.ysteron.error.InvalidInputException when it cannot be done, with the reason and
   *     what can be done instead; nothing was changed
   */
  public WriteResult run(String note) {
    List<Alteration> settled = Defaults.settled(alterations, runner.core().now());
    return runner.run(
        note,
        change -> {
          change.alter(settled);
          return ChangeReport.NOTHING;
        });
  }
}
