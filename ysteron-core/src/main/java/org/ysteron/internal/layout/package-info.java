/**
 * Owns how rows are spread over files: partition rules applied to values, sort orders, their texts.
 * Its invariant: a part stays what it is when its column becomes wider.
 *
 * <p>Uses data, error, filter, json, option, rows, text.
 */
package org.ysteron.internal.layout;
