/**
 * Owns the one class that must stand in the Parquet library's own package. It may use that library
 * only. Its invariant: nothing else is ever added here.
 */
package org.apache.parquet;
