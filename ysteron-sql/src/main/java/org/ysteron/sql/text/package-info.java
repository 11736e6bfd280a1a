/**
 * Owns SQL text: search conditions and column definitions, parsed by Apache Calcite and turned into
 * the core's conditions and schemas. It may use the core. Its invariant: an error points at its
 * place in the text.
 */
@NullMarked
package org.ysteron.sql.text;

import org.jspecify.annotations.NullMarked;
