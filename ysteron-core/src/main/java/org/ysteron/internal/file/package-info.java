/**
 * Owns data files: writing Parquet from vectors and reading it back into vectors, checked byte for
 * byte. Its invariant: no byte of a data file is used before its checksum was compared.
 *
 * <p>Uses bytes, column, data, error, filter, json, rows, store, text, work.
 */
package org.ysteron.internal.file;
