/**
 * Owns the threads that read and write, and the log of what could not be cleaned up. Its invariant:
 * a failure in a thread comes to whoever waits for it, and none is lost.
 *
 * <p>Uses error.
 */
package org.ysteron.internal.work;
