package org.ysteron.cli;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import picocli.CommandLine;
import picocli.CommandLine.Help;
import picocli.CommandLine.IHelpSectionRenderer;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.Model.UsageMessageSpec;

/**
 * How help is laid out: commands by subject, those of the first day first; of a command the options
 * of every day first and those that all commands share last.
 */
final class HelpPages {
  /** All commands, by subject. */
  static final Map<String, List<String>> SUBJECTS = new LinkedHashMap<>();

  static {
    SUBJECTS.put(
        "Getting started",
        List.of(
            "demo",
            "create-lake",
            "create-table",
            "load",
            "tables",
            "query",
            "sql",
            "scan",
            "update",
            "delete",
            "upsert",
            "history"));
    SUBJECTS.put(
        "Tables", List.of("schema", "alter", "layout", "compare", "rename", "drop", "bring-back"));
    SUBJECTS.put("Rows", List.of("merge", "explain", "duplicates", "leftovers", "lift"));
    SUBJECTS.put(
        "Time",
        List.of(
            "changes", "row-history", "row-origin", "rewind", "bookmark", "position", "expire"));
    SUBJECTS.put(
        "Files and upkeep",
        List.of(
            "files", "health", "statistics", "compact", "rewrite", "sweep", "upkeep", "settings"));
    SUBJECTS.put("Proof", List.of("check", "mend", "erase", "confirm-restore"));
    SUBJECTS.put("Other", List.of("completion", "help"));
  }

  private static final List<String> EVERY_DAY =
      List.of(
          "--where",
          "--set",
          "--at",
          "--from",
          "--to",
          "--columns",
          "--limit",
          "--matched",
          "--unmatched",
          "--not-in-source",
          "--partition",
          "--drift",
          "--last-wins",
          "--dry-run",
          "--time",
          "--format");

  private static final Set<String> SHARED =
      Set.of("--lake", "--author", "--note", "--zone", "--trace", "--help", "--about");

  private static final int NAMES = 19;

  /** Readable on white and on black. */
  static final Help.ColorScheme COLOURS =
      new Help.ColorScheme.Builder(Help.Ansi.AUTO)
          .commands(Help.Ansi.Style.bold)
          .options(Help.Ansi.Style.bold)
          .parameters(Help.Ansi.Style.bold)
          .optionParams(Help.Ansi.Style.italic)
          .build();

  private HelpPages() {}

  /** Lays out the help of the tool and of all its commands. */
  static void applyTo(CommandLine tool) {
    Map<String, IHelpSectionRenderer> sections = new HashMap<>(tool.getHelpSectionMap());
    sections.put(UsageMessageSpec.SECTION_KEY_COMMAND_LIST_HEADING, help -> "");
    sections.put(UsageMessageSpec.SECTION_KEY_COMMAND_LIST, HelpPages::commands);
    sections.put(UsageMessageSpec.SECTION_KEY_OPTION_LIST, HelpPages::options);
    tool.setHelpSectionMap(sections);
    tool.getSubcommands()
        .values()
        .forEach(
            command ->
                command
                    .getCommandSpec()
                    .usageMessage()
                    .abbreviateSynopsis(true)
                    .descriptionHeading("%n")
                    .parameterListHeading("%n@|bold Arguments:|@%n"));
  }

  private static String commands(Help help) {
    Map<String, Help> commands = help.subcommands();
    if (commands.isEmpty()) {
      return "";
    }
    StringBuilder text = new StringBuilder();
    for (Map.Entry<String, List<String>> subject : SUBJECTS.entrySet()) {
      Help.TextTable table =
          Help.TextTable.forColumns(
              help.colorScheme(),
              new Help.Column(NAMES, 2, Help.Column.Overflow.SPAN),
              new Help.Column(Output.HELP_WIDTH - NAMES, 2, Help.Column.Overflow.WRAP));
      for (String name : subject.getValue()) {
        String[] said = commands.get(name).commandSpec().usageMessage().description();
        table.addRowValues(help.colorScheme().commandText(name), help.colorScheme().text(said[0]));
      }
      text.append(heading(help, subject.getKey())).append(table);
    }
    return text.toString();
  }

  private static String heading(Help help, String text) {
    return "%n%s%n".formatted(help.colorScheme().text("@|bold " + text + ":|@"));
  }

  private static String options(Help help) {
    List<OptionSpec> all = new ArrayList<>(help.commandSpec().options());
    all.removeIf(OptionSpec::hidden);
    all.sort(Comparator.comparingInt(HelpPages::rank).thenComparing(OptionSpec::longestName));
    List<OptionSpec> shared = all.stream().filter(HelpPages::isShared).toList();
    List<OptionSpec> own = all.stream().filter(option -> !isShared(option)).toList();
    String text = own.isEmpty() ? "" : heading(help, "Options") + list(help, all, own);
    return text
        + heading(help, own.isEmpty() ? "Options" : "Common options")
        + list(help, all, shared);
  }

  private static boolean isShared(OptionSpec option) {
    return SHARED.contains(option.longestName());
  }

  private static int rank(OptionSpec option) {
    int at = EVERY_DAY.indexOf(option.longestName());
    return at < 0 ? EVERY_DAY.size() : at;
  }

  /** Some options, in columns as wide as those of all. */
  private static String list(Help help, List<OptionSpec> all, List<OptionSpec> some) {
    Help.Layout layout =
        help.createDefaultLayout(
            all, help.commandSpec().positionalParameters(), help.colorScheme());
    layout.addOptions(some, help.createDefaultParamLabelRenderer());
    return layout.toString();
  }
}
