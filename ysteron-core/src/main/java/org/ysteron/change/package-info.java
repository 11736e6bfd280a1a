/**
 * Owns what commits do to tables and their rows: creating, dropping, renaming, altering, appending
 * by the rules for drift, deleting, updating, merging, rewriting, and how a transaction's work
 * meets what was committed since it started. It may use the read and commit rooms and below. Its
 * invariants: a change that cannot be made whole leaves neither a version nor a data file behind, a
 * change can be applied again to a newer state, and nothing is deleted while it is not known
 * whether a commit happened.
 */
package org.ysteron.change;
