package org.ysteron.data;

import java.nio.file.Path;
import java.util.List;

/**
 * An SQL query on one state of a lake. It is planned once; each reading runs it again on the same
 * state. For one thread.
 */
public interface Query {

  /** The names of the columns, of which several may be the same. */
  List<String> labels();

  /** The columns, in their order; their names are all different, and not always the labels. */
  Schema schema();

  /**
   * How the query is carried out, for people: a line for each step, above those it takes rows of.
   */
  String plan();

  /**
   * The same with a bound on the memory that its joins, groups and sorts take together.
   *
   * @param bytes a query that needs more ends with an error
   */
  Query within(long bytes);

  /** The rows by column. */
  Results<Batch> batches();

  /** The rows one by one, as views on batches. */
  Results<Row> rows();

  /**
   * Writes the rows to a Parquet file, which must not exist yet. Its columns have the labels as
   * their names; a label that was there before gets a number behind it.
   *
   * @return how many rows were written
   * @throws org.ysteron.error.AlreadyExistsException when there is a file of that name
   */
  long writeParquet(Path file);

  /** The rows as records, whose components are bound to the columns by name. */
  <R extends Record> Results<R> records(Class<R> type);
}
