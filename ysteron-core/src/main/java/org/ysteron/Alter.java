package org.ysteron;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.ysteron.data.Field;
import org.ysteron.data.Type;
import org.ysteron.expr.Condition;
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

  /** Takes a column away. A column of the same name that is added later is another one. */
  @CheckReturnValue
  public Alter drop(String path) {
    return also(new Alteration.DropColumn(path));
  }

  /** Gives a column another name. */
  @CheckReturnValue
  public Alter rename(String path, String newName) {
    return also(new Alteration.RenameColumn(path, newName));
  }

  /** Gives a column another place among its siblings. */
  @CheckReturnValue
  public Alter move(String path, Place place) {
    return also(new Alteration.MoveColumn(path, place));
  }

  /** Gives a column a type that takes all its values exactly. */
  @CheckReturnValue
  public Alter widen(String path, Type type) {
    return also(new Alteration.WidenColumn(path, type));
  }

  /** Refuses null from now on; refused itself when a row has one. */
  @CheckReturnValue
  public Alter notNull(String path) {
    return also(new Alteration.SetRequired(path, true));
  }

  /** Lets null in. */
  @CheckReturnValue
  public Alter nullable(String path) {
    return also(new Alteration.SetRequired(path, false));
  }

  /** Gives a column a default for rows that are written from now on. */
  @CheckReturnValue
  public Alter setDefault(String path, Object value) {
    return also(new Alteration.SetDefault(path, Optional.of(value)));
  }

  /** Takes a column's default away. */
  @CheckReturnValue
  public Alter dropDefault(String path) {
    return also(new Alteration.SetDefault(path, Optional.empty()));
  }

  /** Gives a column a comment. */
  @CheckReturnValue
  public Alter comment(String path, String text) {
    return also(new Alteration.SetComment(path, text));
  }

  /** Makes columns the primary key; refused when two rows have the same. */
  @CheckReturnValue
  public Alter key(String... columns) {
    return also(new Alteration.SetKey(List.of(columns)));
  }

  /** Takes the primary key away; its columns stay NOT NULL. */
  @CheckReturnValue
  public Alter dropKey() {
    return also(new Alteration.SetKey(List.of()));
  }

  /** Adds a condition that is to be false for no row; refused when it is for one. */
  @CheckReturnValue
  public Alter check(String name, Condition condition) {
    return also(new Alteration.AddCheck(name, condition));
  }

  /** Takes a check away. */
  @CheckReturnValue
  public Alter dropCheck(String name) {
    return also(new Alteration.DropCheck(name));
  }

  /** Names the column of type JSON that takes what the schema does not know. */
  @CheckReturnValue
  public Alter leftovers(String column) {
    return also(new Alteration.SetLeftovers(Optional.of(column)));
  }

  /** Lays rows out otherwise from now on; files that are there stay as they are. */
  @CheckReturnValue
  public Alter layout(LayoutPlan plan) {
    return also(new Alteration.SetLayout(plan));
  }

  /** Changes a setting (see {@link org.ysteron.option.TableSettings}). */
  @CheckReturnValue
  public Alter set(String setting, Object value) {
    return also(new Alteration.SetSetting(setting, value));
  }

  /** Does it. */
  public WriteResult run() {
    return run("");
  }

  /**
   * Does it.
   *
   * @param note for the commit
   * @return the commit; none inside a transaction, which commits it with the rest
   * @throws org.ysteron.error.InvalidInputException when it cannot be done, with the reason and
   *     what can be done instead; nothing was changed
   */
  public WriteResult run(String note) {
    return runner.run(
        note,
        change -> {
          change.alter(alterations);
          return ChangeReport.NOTHING;
        });
  }
}
