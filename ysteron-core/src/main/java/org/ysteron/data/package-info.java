/**
 * Owns types, schemas, values, rows and column batches. It may use the error room only. Its
 * invariants: a field's id is never used again for another field, every type has one Java class for
 * its values, and a finished vector or batch never changes.
 */
package org.ysteron.data;
