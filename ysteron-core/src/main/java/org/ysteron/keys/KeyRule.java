package org.ysteron.keys;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.ysteron.table.Proof;
import org.ysteron.table.TableSettings;
import org.ysteron.table.VersionPage;

/** Who sees to it that no two rows have one primary key. */
public enum KeyRule {
  /** Nobody. */
  DECLARED,
  /** Each write, among its own rows. */
  WITHIN_WRITES,
  /** Every write, in the whole table. */
  EXACT;

  /** Whether one version asks of keys what another, before it, did not see to. */
  public static boolean isToBeProved(VersionPage before, VersionPage after) {
    boolean sameKey = before.schema().keyIds().equals(after.schema().keyIds());
    return of(after) == EXACT && !(sameKey && of(before) == EXACT);
  }

  /** What an alteration asks of rows; that keys tell them apart only where writes see to it. */
  public static List<Proof> asked(List<Proof> byForm, VersionPage before, VersionPage after) {
    List<Proof> asked = new ArrayList<>(byForm);
    asked.removeIf(proof -> proof instanceof Proof.UniqueKey);
    if (isToBeProved(before, after)) {
      asked.add(new Proof.UniqueKey());
    }
    return asked;
  }

  /** A table's; that of one without a key is to declare. */
  public static KeyRule of(VersionPage table) {
    return table.schema().key().isEmpty()
        ? DECLARED
        : valueOf(table.settings().word(TableSettings.KEY_TEST).toUpperCase(Locale.ROOT));
  }
}
