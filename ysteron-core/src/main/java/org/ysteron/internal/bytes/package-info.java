/**
 * Owns bytes: their encoding one behind the other, hashes, compression, UTF-8. Its invariant: no
 * length is believed before it is compared with the bytes there are.
 *
 * <p>Uses error.
 */
package org.ysteron.internal.bytes;
