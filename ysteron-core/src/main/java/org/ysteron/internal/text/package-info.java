/**
 * Owns texts for people and from them: numbers, names as SQL writes them, near names, what may be
 * printed, limits. Its invariant: what it takes from outside is bounded before it is computed with.
 *
 * <p>Uses error.
 */
package org.ysteron.internal.text;
