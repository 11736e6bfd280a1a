/**
 * Owns the types of expressions: which columns they name, what each part's type is, and which parts
 * are converted to be compared or computed with. Its invariant: every part of a typed expression
 * has one type, and operators only meet types that they are defined for.
 *
 * <p>Uses data, error, expr, text.
 */
package org.ysteron.internal.typing;
