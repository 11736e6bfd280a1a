package org.ysteron.internal.changes;

import java.util.List;
import java.util.Optional;
import org.ysteron.data.Schema;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.form.WiderColumns;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.table.VersionPage;

/**
 * Two versions of a table that are compared, and in what. Immutable.
 *
 * @param from the one that the changes start from, as it is read
 * @param to the one that they lead to, as it is read: with the same columns
 * @param condition the rows that matter, in each version by itself
 * @param shown the columns in which rows are compared and shown
 * @param memory about how many bytes may be held
 * @param serials the rows that matter, by serial; empty for all
 */
public record Comparison(
    ReadContext context,
    VersionPage from,
    VersionPage to,
    Condition condition,
    Schema shown,
    long memory,
    Optional<Serials> serials) {

  /** Serials from one on to before another one. */
  public record Serials(long from, long behind) {}

  /**
   * A comparison of two versions with the columns and names of a third one, each in the widest of
   * its types. Columns that one of the two has dropped are not compared.
   *
   * @param columns the columns to show, by path; empty for all
   */
  public static Comparison of(
      ReadContext context,
      VersionPage from,
      VersionPage to,
      VersionPage named,
      Condition condition,
      List<String> columns) {
    VersionPage later = to.readBy(from.readBy(named));
    VersionPage earlier = from.readBy(later);
    Schema schema =
        WiderColumns.notDropped(
            WiderColumns.notDropped(later.schema(), from.schema()), to.schema());
    try {
      Filter unused = Filter.bind(condition, schema);
    } catch (NotFoundException e) {
      boolean isDropped = later.schema().struct().indexOf(e.name()) >= 0;
      throw isDropped ? dropped(e, from, to) : e;
    }
    return new Comparison(
        context,
        earlier,
        later,
        condition,
        columns.isEmpty() ? schema : schema.select(columns),
        context.workers().means().memory(),
        Optional.empty());
  }

  /** What is lost with a column must not decide about rows. */
  private static NotFoundException dropped(NotFoundException e, VersionPage from, VersionPage to) {
    return new NotFoundException(
        e.kind(),
        e.name(),
        "%s A column that was dropped between versions %d and %d of table %s is neither compared nor tested."
            .formatted(e.getMessage(), from.version(), to.version(), to.name()));
  }

  /** The same in so many bytes of memory, or what is needed at least. */
  public Comparison inMemory(long bytes) {
    return new Comparison(context, from, to, condition, shown, bytes, serials);
  }

  /** The same of rows with some serials only. */
  public Comparison of(Serials some) {
    return new Comparison(context, from, to, condition, shown, memory, Optional.of(some));
  }

  /** What rows of one of the versions have to pass. */
  Filter filter(VersionPage version) {
    return version.filter(condition, context.pages());
  }
}
