package org.ysteron.cli;

import java.util.Map;
import org.ysteron.Lake;
import org.ysteron.internal.text.Visible;
import org.ysteron.report.Explanation;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron explain}. */
@Command(
    name = "explain",
    description = "Say what a scan would read and what it would skip, at which level and why.")
final class ExplainCommand extends LakeCommand {
  @Mixin private SelectOptions select;
  @Mixin private Listing.Options listing;

  @Override
  void run(Lake opened) {
    Explanation plan = select.scan(opened).explain();
    if (!listing.isText()) {
      Listing list = listing.listing(out(), "level", "all", "skipped", "left");
      levels(plan, list);
      return;
    }
    out().println("table %s, version %d".formatted(plan.table(), plan.version()));
    out().println(Visible.of("where %s".formatted(plan.condition())));
    out().println();
    Listing list = listing.listing(out(), "level", "all", "skipped", "left");
    levels(plan, list);
    out().println();
    out()
        .println(
            "To read: %s in %s (%s). %s pass as a whole, %s row by row."
                .formatted(
                    Listing.count(plan.opened().rows(), "row", "rows"),
                    Listing.count(
                        plan.opened().filesWhole() + plan.opened().filesFiltered(),
                        "file",
                        "files"),
                    Listing.bytes(plan.opened().bytes()),
                    Listing.count(
                        plan.opened().filesWhole(), "file is known to", "files are known to"),
                    Listing.count(plan.opened().filesFiltered(), "is tested", "are tested")));
    for (Map.Entry<String, Long> reason : plan.reasons().entrySet()) {
      boolean subtrees = reason.getKey().endsWith(" (subtrees)");
      String column = reason.getKey().replace(" (subtrees)", "");
      out()
          .println(
              "Skipped by %s: %s."
                  .formatted(
                      column.equals("partition") ? "partition" : "the range of " + column,
                      subtrees
                          ? Listing.count(reason.getValue(), "subtree", "subtrees")
                          : Listing.count(reason.getValue(), "file", "files")));
    }
    if (!plan.layouts().isEmpty()) {
      out().println();
      Listing layouts = listing.listing(out(), "layout", "files", "skipped", "left", "laid out by");
      for (Explanation.OfLayout of : plan.layouts()) {
        layouts.row(
            of.layout(), of.files(), of.files() - of.filesRead(), of.filesRead(), of.text());
      }
      layouts.end();
      out().println();
    }
    out()
        .println(
            "Planned by reading %s of metadata."
                .formatted(Listing.count(plan.pagesRead(), "page", "pages")));
  }

  private static void levels(Explanation plan, Listing list) {
    long seen = plan.files() - plan.skipped().filesInSubtrees();
    list.row("files, by subtree", plan.files(), plan.skipped().filesInSubtrees(), seen);
    list.row("files, by range", seen, plan.skipped().files(), seen - plan.skipped().files());
    row(list, "row groups", plan.groups());
    row(list, "page runs", plan.runs());
    list.end();
  }

  private static void row(Listing list, String what, Explanation.Tested parts) {
    list.row(what, parts.all(), parts.skipped(), parts.all() - parts.skipped());
  }
}
