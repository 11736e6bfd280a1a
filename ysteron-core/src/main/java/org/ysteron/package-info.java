/**
 * What a user of the library imports: lakes, tables, scans, appends. This room is thin: it resolves
 * names and versions and hands the work to the rooms below, all of which it may use. Its invariant:
 * every object handed out is either pinned to one version or says that it follows the newest one.
 */
package org.ysteron;
