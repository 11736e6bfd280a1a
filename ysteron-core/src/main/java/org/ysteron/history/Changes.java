package org.ysteron.history;

import java.nio.file.Path;
import java.util.List;
import org.ysteron.data.Batch;
import org.ysteron.data.Results;
import org.ysteron.data.Schema;
import org.ysteron.expr.Condition;
import org.ysteron.internal.work.CheckReturnValue;
import org.ysteron.report.TableVersion;

/**
 * What differs between two versions of a table: rows inserted, deleted and updated, the values
 * before and after paired by the rows' serials. It is found by comparing the versions, so that
 * nothing has to be recorded beforehand, and it costs what differs.
 *
 * <p>The two versions may be in any order: from a later one to an earlier one it is the other
 * direction, in which a row that was inserted is a deleted one. Rows that were only moved to other
 * files are no difference, nor are rows that were written again with the values that they had.
 * Values are equal by the type of their column; NaN equals NaN, and -0.0 does not equal 0.0.
 *
 * <p>Both versions are read with the columns of one of them, each in the wider of its two types. A
 * column that was added between them has in the earlier one what its older rows have; a column that
 * was dropped between them is not compared. Immutable: each method returns another one.
 * Thread-safe.
 */
public interface Changes {

  /** The version that the changes start from. */
  TableVersion from();

  /** The version that the changes lead to. */
  TableVersion to();

  /** The columns in which the versions are compared, and which the rows have. */
  Schema schema();

  /**
   * Only rows for which a condition is true; with an earlier one, both. Each version is filtered by
   * itself: a row that does not fulfil it any more is a deleted one.
   */
  @CheckReturnValue
  Changes where(Condition condition);

  /** Compares and shows these columns only, by path, in this order. */
  @CheckReturnValue
  Changes columns(String... paths);

  /** Compares and shows these columns only, by path, in this order. */
  @CheckReturnValue
  Changes columns(List<String> paths);

  /**
   * With the columns and names of a version; without this, of the one with the greater number.
   *
   * @param version a number of a version of the table
   * @throws org.ysteron.error.NotFoundException when there is none
   * @throws org.ysteron.error.ExpiredException when it is not kept any more
   */
  @CheckReturnValue
  Changes withColumnsOf(long version);

  /**
   * A deleted row and an inserted one with the same primary key count as one updated row. Without
   * this rows are the same only if they have the same serial: a row that was deleted and inserted
   * again is two changes.
   *
   * @throws org.ysteron.error.InvalidInputException when something is read, if the table has no key
   */
  @CheckReturnValue
  Changes pairedByKey();

  /**
   * With the rows that do not differ: both versions as one scan, in no order. Such rows are read
   * once, and have the same batch before and after. Only what gives rows changes by it.
   */
  @CheckReturnValue
  Changes withUnchanged();

  /** How many rows differ; reads no values but those that a condition needs. */
  ChangeCounts count();

  /** How many rows differ, exactly: reads the values of rows that were written again. */
  ChangeCounts countExactly();

  /** What differs, in numbers: by kind, by partition and by column. */
  ChangeSummary summary();

  /**
   * The rows that differ, by column: all deleted ones, then updated ones, then inserted ones,
   * unless there are others {@linkplain #withUnchanged beside them}.
   */
  Results<ChangeBatch> batches();

  /** The rows that differ, as views on batches: deleted ones first, inserted ones last. */
  Results<ChangedRow> rows();

  /**
   * The columns of the {@linkplain #flat flat} form: {@code change}, {@code serial}, and those of
   * {@link #schema}. A name that the table has itself gets an underscore behind it.
   */
  Schema flatSchema();

  /**
   * The rows that differ, as rows of one table, in the columns of {@link #flatSchema}. Column
   * {@code change} says {@code inserted} or {@code deleted}; an updated row is two rows, {@code
   * updated from} and {@code updated to}, one behind the other.
   */
  Results<Batch> flat();

  /**
   * Writes the flat form to a Parquet file, which must not exist yet.
   *
   * @return how many rows were written
   * @throws org.ysteron.error.AlreadyExistsException when there is a file of that name
   */
  long writeParquet(Path file);

  /**
   * The changes of each version between the two, in the order of the way.
   *
   * @throws org.ysteron.error.ExpiredException when a version in between is not kept any more; the
   *     message says since when and by whom
   */
  List<ChangeStep> steps();

  /** The changes between each two neighbours of the versions that are still kept. */
  List<ChangeStep> keptSteps();
}
