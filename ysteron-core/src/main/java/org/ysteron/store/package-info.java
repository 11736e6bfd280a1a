/**
 * The objects of a lake as bytes under names, and the promise that an object is created at most
 * once. Its invariant: no reader ever sees a torn object, and what a call has acknowledged survives
 * the death of the process.
 *
 * <p>Uses error, work.
 */
@NullMarked
package org.ysteron.store;

import org.jspecify.annotations.NullMarked;
