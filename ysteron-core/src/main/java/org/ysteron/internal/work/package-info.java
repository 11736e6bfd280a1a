/**
 * Owns the threads that read and write, the log of what could not be cleaned up, and the mark of
 * methods whose result must be used. Its invariant: a failure in a thread comes to whoever waits
 * for it, and none is lost.
 *
 * <p>Uses error, progress.
 */
package org.ysteron.internal.work;
