package org.ysteron.proof;

import org.ysteron.option.Budget;

/**
 * A check of a lake: everything that the lake refers to must exist, must be what was written, and
 * must agree with the rest. It changes nothing, and can run while others write and sweep.
 * Immutable: each method returns another one.
 */
public interface LakeCheck {

  /** The same, to another depth; {@link CheckDepth#FILES} if nothing is said. */
  LakeCheck depth(CheckDepth depth);

  /** The same, of the data files behind those that an earlier one looked at last. */
  LakeCheck after(String position);

  /**
   * The same, which begins no further data file once a budget is spent. Rows are read by the one
   * that looks at the last of them.
   */
  LakeCheck within(Budget budget);

  /**
   * Looks at everything.
   *
   * @throws org.ysteron.error.WrongLakeException when another lake is there than was opened
   * @throws org.ysteron.store.StoreException when the store does not answer
   */
  CheckReport run();
}
