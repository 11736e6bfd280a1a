package org.ysteron.internal.keys;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.ysteron.internal.form.Proof;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.KeyTesting;
import org.ysteron.option.TableSettings;

/** What a table asks of its primary key. */
public final class KeyRule {
  private KeyRule() {}

  /** Whether one version asks of keys what another, before it, did not see to. */
  public static boolean isToBeProved(VersionPage before, VersionPage after) {
    boolean sameKey = before.schema().keyIds().equals(after.schema().keyIds());
    return of(after) == KeyTesting.EXACT && !(sameKey && of(before) == KeyTesting.EXACT);
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

  /** Who tests a table's key; nobody that of one without a key. */
  public static KeyTesting of(VersionPage table) {
    return table.schema().key().isEmpty()
        ? KeyTesting.DECLARED
        : KeyTesting.valueOf(
            table.settings().word(TableSettings.KEY_TEST).toUpperCase(Locale.ROOT));
  }
}
