package org.ysteron.sql;

import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Row;

/** A value computed from a row of the table and one of a source; either may be null. */
@FunctionalInterface
public interface RowFunction extends BiFunction<Row, Row, @Nullable Object> {}
