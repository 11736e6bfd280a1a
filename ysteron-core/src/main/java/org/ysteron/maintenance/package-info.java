/**
 * Keeping a lake fit: {@link org.ysteron.maintenance.Compaction}, {@link
 * org.ysteron.maintenance.Expiry}, {@link org.ysteron.maintenance.Sweep}, all of them as they are
 * due by {@link org.ysteron.maintenance.Upkeep}, and their reports; the health of lakes and tables.
 *
 * <p>Uses expr, option, report, work.
 */
@NullMarked
package org.ysteron.maintenance;

import org.jspecify.annotations.NullMarked;
