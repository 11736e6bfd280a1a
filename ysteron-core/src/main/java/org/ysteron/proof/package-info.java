/**
 * Proving that a lake is whole, {@link org.ysteron.proof.LakeCheck} and what it finds; and that
 * rows are in it no more, {@link org.ysteron.proof.TableErase}.
 *
 * <p>Uses maintenance, option, report.
 */
@NullMarked
package org.ysteron.proof;

import org.jspecify.annotations.NullMarked;
