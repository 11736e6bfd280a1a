package org.ysteron.option;

import java.util.Optional;
import org.ysteron.data.Type;

/**
 * A key of the leftovers to be lifted into a column.
 *
 * @param path the key
 * @param column the column's name
 * @param type its type; empty for the narrowest type that holds all values
 */
public record Lift(String path, String column, Optional<Type> type) {}
