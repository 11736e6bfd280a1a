package org.ysteron.internal.filter;

/** Gives the range of a column by its field id. */
@FunctionalInterface
public interface Ranges {
  ColumnRange range(int fieldId);
}
