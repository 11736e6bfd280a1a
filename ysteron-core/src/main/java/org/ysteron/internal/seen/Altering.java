package org.ysteron.internal.seen;

import java.util.List;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.form.FormEditor;
import org.ysteron.internal.form.Proof;
import org.ysteron.internal.keys.KeyRule;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.tree.PageBatch;
import org.ysteron.option.Alteration;
import org.ysteron.option.TableSettings;

/** Alters a table as a transaction sees it, and proves of its rows what that asks. */
public final class Altering {
  private Altering() {}

  /**
   * The table after some alterations.
   *
   * @throws InvalidInputException when they cannot be done, or rows do not fit them
   */
  public static Draft altered(
      SeenTable change, Draft before, List<Alteration> changes, PageBatch batch) {
    FormEditor editor = new FormEditor(before.page().form(), before.numbers());
    TableSettings settings = before.page().settings();
    for (Alteration alteration : changes) {
      if (alteration instanceof Alteration.SetSetting set) {
        settings = settings.with(set.name(), set.value());
      } else {
        editor.apply(alteration);
      }
    }
    VersionPage after =
        before
            .page()
            .withForm(editor.form(), before.numbers(), change.context().pages(), batch)
            .withSettings(settings);
    List<Proof> asked = KeyRule.asked(editor.proofs(), before.page(), after);
    if (!asked.isEmpty()) {
      change.awaitFiles();
      Proofs proofs = new Proofs(change, after);
      for (Proof proof : asked) {
        proofs
            .against(proof)
            .ifPresent(
                what -> {
                  throw new InvalidInputException(
                      "Table %s cannot be altered in this way. %s Nothing was changed."
                          .formatted(change.name(), what));
                });
      }
    }
    return new Draft(after, before.numbers().with(after.form()));
  }
}
