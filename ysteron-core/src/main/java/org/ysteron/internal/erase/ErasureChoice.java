package org.ysteron.internal.erase;

import org.ysteron.expr.Condition;

/**
 * What is to be erased.
 *
 * @param condition which rows
 * @param includesHeld whether versions that a bookmark names lose rows, too
 * @param redactsAuthors whether the authors of the commits go with their texts
 * @param takesMissingAsNull whether rows of versions that lack a column of the condition are tested
 *     as if it was null there
 */
record ErasureChoice(
    Condition condition, boolean includesHeld, boolean redactsAuthors, boolean takesMissingAsNull) {

  ErasureChoice withHeld() {
    return new ErasureChoice(condition, true, redactsAuthors, takesMissingAsNull);
  }

  ErasureChoice withAuthors() {
    return new ErasureChoice(condition, includesHeld, true, takesMissingAsNull);
  }

  ErasureChoice withMissingAsNull() {
    return new ErasureChoice(condition, includesHeld, redactsAuthors, true);
  }
}
