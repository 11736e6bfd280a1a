/**
 * Types, schemas, values, rows and column batches. Its invariants: a field's id is never used again
 * for another field, every type has one Java class for its values, and a finished vector or batch
 * never changes.
 *
 * <p>Uses error, text.
 */
@NullMarked
package org.ysteron.data;

import org.jspecify.annotations.NullMarked;
