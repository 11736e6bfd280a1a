/**
 * Owns the exceptions that people meet. It uses no other room. Its invariant: a message says what
 * happened, to which table, version, object or row, and what to do next.
 */
package org.ysteron.error;
