/**
 * Owns the columns of a Parquet file: their types, their field ids, their pages decoded into
 * vectors. Its invariant: columns are found by field id and only by id.
 *
 * <p>Uses bytes, data, error, filter, rows.
 */
package org.ysteron.internal.column;
