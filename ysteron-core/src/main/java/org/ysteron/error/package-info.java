/**
 * The exceptions that people meet. Their invariant: a message says what happened, to which table,
 * version, object or row, and what to do next; what a program may want to know is a field.
 *
 * <p>Uses no other room.
 */
@NullMarked
package org.ysteron.error;

import org.jspecify.annotations.NullMarked;
