/**
 * Owns the sample world, the invented tide office of Orrin Sound, and small programs that use the
 * library in it. It may use the core. Its invariant: the same seed gives the same data everywhere.
 */
package org.ysteron.examples;
