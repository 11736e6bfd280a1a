package org.ysteron.history;

import org.ysteron.report.TableVersion;

/**
 * One of the steps from a version to another.
 *
 * @param version the version that the step made: when, by whom, why. On the way back it is the one
 *     that the step takes away
 * @param changes what differs between the version before the step and the one behind it
 */
public record ChangeStep(TableVersion version, Changes changes) {}
