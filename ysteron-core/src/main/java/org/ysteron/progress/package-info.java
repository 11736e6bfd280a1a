/**
 * How a program watches a long call and cancels it. Its invariant: a call that is cancelled ends
 * with an exception, and leaves no thread, no temporary file and no part of a commit.
 *
 * <p>Uses no other room.
 */
@NullMarked
package org.ysteron.progress;

import org.jspecify.annotations.NullMarked;
