package org.ysteron.sql.explain;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.ysteron.sql.window.Window;
import org.ysteron.sql.window.WindowStep;

/** Window functions in words. */
final class WindowText {
  private WindowText() {}

  static String of(WindowStep step, Names names) {
    List<String> texts = new ArrayList<>();
    for (Window window : step.windows()) {
      List<String> calls = new ArrayList<>();
      for (Window.Call call : window.calls()) {
        List<String> of = call.of().stream().map(at -> name(names, at)).toList();
        String word =
            call.function() == Window.Function.AGGREGATE
                ? call.aggregate().function().word()
                : call.function().name().toLowerCase(Locale.ROOT);
        calls.add(word + "(" + String.join(", ", of) + ")");
      }
      List<String> over = new ArrayList<>();
      if (!window.keys().isEmpty()) {
        List<String> keys = window.keys().stream().map(at -> name(names, at)).toList();
        over.add("partition by " + String.join(", ", keys));
      }
      if (!window.orders().isEmpty()) {
        over.add("order by " + PlanText.orders(window.orders(), names));
      }
      texts.add(String.join(", ", calls) + " over (" + String.join(" ", over) + ")");
    }
    return Names.shortened(String.join("; ", texts));
  }

  private static String name(Names names, int at) {
    return at < names.all().size() ? names.all().get(at) : "value " + (at + 1);
  }
}
