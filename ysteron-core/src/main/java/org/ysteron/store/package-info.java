/**
 * Owns the objects of a lake as bytes under names, and the promise that an object is created at
 * most once. It may use nothing of the other rooms. Its invariant: no reader ever sees a torn
 * object, and what a call has acknowledged survives the death of the process.
 */
package org.ysteron.store;
