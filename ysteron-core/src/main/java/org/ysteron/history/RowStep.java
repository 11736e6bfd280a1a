package org.ysteron.history;

/**
 * Something that happened to a row that a condition, such as a key, selects.
 *
 * <p>A row that the condition selects before or after only, although it exists on both sides, was
 * updated so that it got another key: the life under one key ends there and goes on under the other
 * one.
 *
 * @param at the version that did it
 * @param change the row before and after; also where the condition does not select it
 * @param wasSelected whether the condition selects it before
 * @param isSelected whether the condition selects it after
 */
public record RowStep(MadeBy at, ChangedRow change, boolean wasSelected, boolean isSelected) {}
