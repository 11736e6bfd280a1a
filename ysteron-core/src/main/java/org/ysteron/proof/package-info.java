/**
 * Proving that a lake is whole: {@link org.ysteron.proof.LakeCheck} and what it finds.
 *
 * <p>Uses option, report.
 */
package org.ysteron.proof;
