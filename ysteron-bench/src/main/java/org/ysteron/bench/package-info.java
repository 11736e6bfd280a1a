/**
 * Owns the benchmarks: each measures the library and what it is compared with in one run, in turns,
 * and prints the ratio of the medians last. It may use the core. Its invariant: a benchmark ends
 * with exit code 1 when a ratio is above its limit.
 */
package org.ysteron.bench;
