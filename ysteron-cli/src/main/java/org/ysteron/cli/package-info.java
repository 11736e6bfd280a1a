/**
 * Owns the command-line tool: reading arguments, printing answers. It may use every other module.
 * Its invariants: it computes nothing that the core could, an answer goes to standard output and
 * all else to standard error, and exit codes are 0, 1 for what failed and 2 for a wrong call.
 */
package org.ysteron.cli;
