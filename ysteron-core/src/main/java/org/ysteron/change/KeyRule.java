package org.ysteron.change;

import java.util.Locale;
import org.ysteron.table.TableSettings;
import org.ysteron.table.VersionPage;

/** Who sees to it that no two rows have one primary key. */
enum KeyRule {
  /** Nobody. */
  DECLARED,
  /** Each write, among its own rows. */
  WITHIN_WRITES,
  /** Every write, in the whole table. */
  EXACT;

  /** A table's; that of one without a key is to declare. */
  static KeyRule of(VersionPage table) {
    return table.schema().key().isEmpty()
        ? DECLARED
        : valueOf(table.settings().word(TableSettings.KEY_TEST).toUpperCase(Locale.ROOT));
  }
}
