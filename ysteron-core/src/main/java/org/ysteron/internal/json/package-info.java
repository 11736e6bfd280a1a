/**
 * Owns JSON of the lake's own pages, read strictly, with schemas, expressions and conditions. Its
 * invariant: a member that is missing or of another kind is damage, with its name.
 *
 * <p>Uses data, error, expr, text.
 */
package org.ysteron.internal.json;
