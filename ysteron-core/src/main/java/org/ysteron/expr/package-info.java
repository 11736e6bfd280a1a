/**
 * Owns conditions on rows: their three-valued meaning on values, on batches and on column ranges.
 * It may use the data room. Its invariant: what a range says can never contradict what the rows
 * say; in doubt a range keeps the rows.
 */
package org.ysteron.expr;
