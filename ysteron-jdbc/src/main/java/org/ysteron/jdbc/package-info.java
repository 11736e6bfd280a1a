/**
 * Lakes for JDBC clients: the driver of addresses {@code jdbc:ysteron:LOCATION}, written on the
 * batches of queries. Its invariant: what a client reads or writes through JDBC is what the same
 * statement reads or writes from Java; all failures are {@link java.sql.SQLException}s with a state
 * of their class.
 */
@NullMarked
package org.ysteron.jdbc;

import org.jspecify.annotations.NullMarked;
