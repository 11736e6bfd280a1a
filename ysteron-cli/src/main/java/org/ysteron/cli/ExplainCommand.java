package org.ysteron.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.internal.text.Visible;
import org.ysteron.report.Explanation;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** {@code ysteron explain}. */
@Command(
    name = "explain",
    description = "Show what a scan reads, what it skips, and why.",
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron explain tide.readings --where \"gauge_id = 'ORR-07' AND level_cm > 535\"")
final class ExplainCommand extends LakeCommand {
  @Mixin private SelectOptions select;
  @Mixin private Listing.Options listing;

  @Override
  void run(LakeHandle opened) {
    Explanation plan = select.scan(opened).explain();
    if (listing.isJson()) {
      Listing.object(out(), json(plan));
      return;
    }
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
            "To read: %s in %s (%s). All rows match in %s; %s filtered row by row."
                .formatted(
                    Listing.count(plan.opened().rows(), "row", "rows"),
                    Listing.count(
                        plan.opened().filesWhole() + plan.opened().filesFiltered(),
                        "file",
                        "files"),
                    Listing.bytes(plan.opened().bytes()),
                    Listing.count(plan.opened().filesWhole(), "file", "files"),
                    Listing.count(plan.opened().filesFiltered(), "file is", "files are")));
    plan.reasons().forEach(this::tell);
    if (!plan.layouts().isEmpty()) {
      out().println();
      Listing layouts = listing.listing(out(), "layout", "files", "skipped", "left", "rules");
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

  private void tell(Explanation.Reason reason) {
    String by = reason.column().map(name -> "the range of " + name).orElse("partition");
    if (reason.subtrees() > 0) {
      String subtrees = Listing.count(reason.subtrees(), "subtree", "subtrees");
      out().println("Skipped by %s: %s.".formatted(by, subtrees));
    }
    if (reason.files() > 0) {
      String files = Listing.count(reason.files(), "file", "files");
      out().println("Skipped by %s: %s.".formatted(by, files));
    }
  }

  private static Map<String, Object> json(Explanation plan) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("table", plan.table());
    json.put("version", plan.version());
    json.put("condition", plan.condition());
    json.put("files", plan.files());
    json.put("skipped_subtrees", plan.skipped().subtrees());
    json.put("files_in_skipped_subtrees", plan.skipped().filesInSubtrees());
    json.put("files_skipped_by_range", plan.skipped().files());
    json.put("files_read_whole", plan.opened().filesWhole());
    json.put("files_filtered", plan.opened().filesFiltered());
    json.put("rows_to_read", plan.opened().rows());
    json.put("bytes_to_read", plan.opened().bytes());
    json.put("row_groups", tested(plan.groups()));
    json.put("page_runs", tested(plan.runs()));
    json.put("skipped_by", plan.reasons().stream().map(ExplainCommand::json).toList());
    json.put("layouts", plan.layouts().stream().map(ExplainCommand::json).toList());
    json.put("metadata_pages_read", plan.pagesRead());
    return json;
  }

  private static Map<String, Object> tested(Explanation.Tested tested) {
    return Map.of("all", tested.all(), "skipped", tested.skipped());
  }

  private static Map<String, Object> json(Explanation.Reason reason) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("column", reason.column());
    json.put("subtrees", reason.subtrees());
    json.put("files", reason.files());
    return json;
  }

  private static Map<String, Object> json(Explanation.OfLayout of) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("layout", of.layout());
    json.put("rules", of.text());
    json.put("files", of.files());
    json.put("files_read", of.filesRead());
    return json;
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
