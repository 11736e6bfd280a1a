package org.ysteron.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.Map;
import org.ysteron.LakeHandle;
import org.ysteron.Table;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.text.Visible;
import org.ysteron.proof.ErasureReport;
import org.ysteron.proof.TableErase;
import org.ysteron.sql.text.SqlCondition;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** {@code ysteron erase}. */
@Command(
    name = "erase",
    customSynopsis = "ysteron erase TABLE --where CONDITION [OPTIONS]",
    description = {
      "Erase rows from all versions of a table. This cannot be undone.",
      "The notes and statements of the table's commits, and everything else in the lake that reveals the rows, are erased too. Versions keep their numbers, times and other rows, and the history marks them as redacted. Work of others that is not committed yet is refused. If the command is interrupted, run it again with the same condition; the lake does not store the condition."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron erase tide.readings --where \"gauge_id = 'ORR-01'\" --dry-run")
final class EraseCommand extends LakeCommand {
  @Parameters(index = "0", paramLabel = "TABLE", description = "Table name.")
  private String table;

  @ArgGroup(multiplicity = "1")
  private Rows rows;

  /** Which rows, or none any more. */
  static final class Rows {
    @Option(
        names = {"-w", "--where"},
        paramLabel = "CONDITION",
        description =
            "SQL search condition; the rows for which it is true are erased from each version.")
    private String where;

    @Option(
        names = "--where-from",
        paramLabel = "FILE",
        description =
            "File that holds the condition, - for standard input. It keeps the condition out of the shell history.")
    private String file;

    @Option(
        names = "--give-up",
        description =
            "Abandon an interrupted erasure whose condition is no longer known. What it erased stays erased.")
    private boolean givesUp;

    String text() {
      return where != null ? where : TextFiles.read(file, "condition");
    }
  }

  @Option(
      names = "--bookmarks",
      description =
          "Also erase from versions that bookmarks or positions keep (default: refuse, and list them).")
  private boolean bookmarks;

  @Option(names = "--authors", description = "Also erase the authors of the table's commits.")
  private boolean authors;

  @Option(
      names = "--missing-is-null",
      description =
          "Treat a column of the condition as null in versions that do not have it (default: refuse, and list the versions).")
  private boolean missingIsNull;

  @Option(
      names = "--report",
      paramLabel = "FILE",
      description = "Also write the report to this new file, as JSON.")
  private Path file;

  @Option(names = "--dry-run", description = "Show what would be erased, and change nothing.")
  private boolean dryRun;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    Table target = write.applyTo(opened, "").table(table);
    if (rows.givesUp) {
      target.erase(Condition.all()).giveUp();
      out().println("The erasure of rows of table %s was abandoned.".formatted(table));
      return;
    }
    TableErase erase = target.erase(SqlCondition.parse(rows.text(), target.schema()));
    erase = bookmarks ? erase.includingBookmarks() : erase;
    erase = authors ? erase.withAuthors() : erase;
    erase = missingIsNull ? erase.takingMissingAsNull() : erase;
    ErasureReport report = done(erase);
    if (listing.isJson()) {
      Listing.object(out(), json(report));
    } else if (listing.isText()) {
      tell(report);
    } else {
      list(report);
    }
  }

  /** Erases once it is sure that there can be a file for the report. */
  private ErasureReport done(TableErase erase) {
    if (file == null) {
      return dryRun ? erase.dryRun() : erase.run();
    }
    try {
      Files.createFile(file);
    } catch (IOException e) {
      throw new InvalidInputException(
          "The report cannot be written to %s: %s. Nothing was changed; name a new file."
              .formatted(file, TextFiles.reason(file, e)),
          e);
    }
    boolean isWritten = false;
    try {
      if (dryRun) {
        ErasureReport would = erase.dryRun();
        write(would);
        isWritten = true;
        return would;
      }
      boolean[] kept = new boolean[1];
      ErasureReport report =
          erase.run(
              told -> {
                write(told);
                kept[0] = true;
              });
      isWritten = kept[0];
      return report;
    } finally {
      if (!isWritten) {
        file.toFile().delete(); // nothing is in it, or not all
      }
    }
  }

  private void write(ErasureReport report) {
    StringWriter text = new StringWriter();
    Listing.object(new PrintWriter(text), json(report));
    try {
      TextFiles.write(file, text.toString());
    } catch (IOException e) {
      throw new InvalidInputException(
          "The report could not be written to %s: %s.%s"
              .formatted(
                  file,
                  TextFiles.reason(file, e),
                  dryRun
                      ? ""
                      : " The rows are erased, and the lake keeps the content of the report. Run the same command again with another file."),
          e);
    }
  }

  private void tell(ErasureReport report) {
    out()
        .println(
            "%s%s from %s of table %s, stored in %s."
                .formatted(
                    dryRun ? DryRunOption.NOTHING + "Would erase " : "Erased ",
                    Listing.count(report.rows(), "row", "rows"),
                    Listing.count(report.versions(), "version", "versions"),
                    Visible.of(report.table()),
                    Listing.count(report.files(), "data file", "data files")));
    if (!report.bookmarks().isEmpty()) {
      out()
          .println(
              "Bookmarks and positions that keep these versions: %s."
                  .formatted(Visible.of(String.join(", ", report.bookmarks()))));
    }
    report.done().ifPresent(this::tell);
  }

  private void tell(ErasureReport.Done done) {
    if (done.endsOnly()) {
      out()
          .println(
              "This finished an earlier erasure, whose condition is no longer known. No row matches the condition given now.");
    }
    if (done.texts() > 0) {
      out()
          .println(
              "Redacted %s."
                  .formatted(
                      Listing.count(done.texts(), "note or statement", "notes and statements")));
    }
    out()
        .println(
            "Proof: all %s of %s were read afterwards, and none matches. The ledger now begins at entry %d."
                .formatted(
                    Listing.count(done.proof().rows(), "row", "rows"),
                    Listing.count(done.proof().files(), "data file", "data files"),
                    done.proof().floor()));
    out()
        .println(
            "Erasure %s, started %s by %s, finished %s."
                .formatted(
                    done.id(),
                    done.opened().truncatedTo(ChronoUnit.SECONDS),
                    Visible.of(done.author()),
                    done.closed().truncatedTo(ChronoUnit.SECONDS)));
    out().println("State before: entry %d, with the SHA-256".formatted(done.before().entry()));
    out().println(done.before().hash());
    out().println("State after: entry %d, with the SHA-256".formatted(done.after().entry()));
    out().println(done.after().hash());
    out().println("An erasure does not cover:");
    ErasureReport.LIMITS.forEach(limit -> out().println("- " + limit));
  }

  private void list(ErasureReport report) {
    Listing list = listing.listing(out(), "table", "files", "rows", "versions", "bookmarks");
    list.row(report.table(), report.files(), report.rows(), report.versions(), report.bookmarks());
    list.end();
  }

  private static Map<String, Object> json(ErasureReport report) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("lake", report.lake());
    json.put("table", report.table());
    json.put("table_id", report.tableId());
    json.put("files", report.files());
    json.put("rows", report.rows());
    json.put("versions", report.versions());
    json.put("bookmarks", report.bookmarks());
    json.put("is_dry_run", report.done().isEmpty());
    report
        .done()
        .ifPresent(
            done -> {
              json.put("erasure", done.id());
              json.put("begun", done.opened());
              json.put("ended", done.closed());
              json.put("author", done.author());
              json.put("ended_only", done.endsOnly());
              json.put("texts", done.texts());
              json.put("before", json(done.before()));
              json.put("after", json(done.after()));
              json.put("files_read", done.proof().files());
              json.put("rows_read", done.proof().rows());
              json.put("floor", done.proof().floor());
              json.put("not_reached", ErasureReport.LIMITS);
            });
    return json;
  }

  private static Map<String, Object> json(ErasureReport.Point point) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("entry", point.entry());
    json.put("hash", point.hash());
    return json;
  }
}
