/**
 * Owns data files: writing Parquet from vectors and reading it back into vectors, checked byte for
 * byte. It may use the expr and store rooms and below. Its invariants: columns are found by field
 * id and only by id, and no byte of a data file is used before its checksum was compared.
 */
package org.ysteron.file;
