package org.ysteron.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import picocli.CommandLine.HelpCommand;

/** The commands of the tool by their names. */
final class Commands {
  private static final Map<String, Class<?>> ALL = new LinkedHashMap<>();

  static {
    ALL.put("create-lake", CreateLakeCommand.class);
    ALL.put("create-table", CreateTableCommand.class);
    ALL.put("alter", AlterCommand.class);
    ALL.put("layout", LayoutCommand.class);
    ALL.put("load", LoadCommand.class);
    ALL.put("upsert", UpsertCommand.class);
    ALL.put("merge", MergeCommand.class);
    ALL.put("update", UpdateCommand.class);
    ALL.put("delete", DeleteCommand.class);
    ALL.put("rewrite", RewriteCommand.class);
    ALL.put("compact", CompactCommand.class);
    ALL.put("bookmark", BookmarkCommand.class);
    ALL.put("position", PositionCommand.class);
    ALL.put("row-history", RowHistoryCommand.class);
    ALL.put("row-origin", RowOriginCommand.class);
    ALL.put("expire", ExpireCommand.class);
    ALL.put("sweep", SweepCommand.class);
    ALL.put("upkeep", UpkeepCommand.class);
    ALL.put("settings", LakeSettingsCommand.class);
    ALL.put("confirm-restore", ConfirmRestoreCommand.class);
    ALL.put("rewind", RewindCommand.class);
    ALL.put("query", QueryCommand.class);
    ALL.put("sql", SqlCommand.class);
    ALL.put("scan", ScanCommand.class);
    ALL.put("explain", ExplainCommand.class);
    ALL.put("tables", TablesCommand.class);
    ALL.put("schema", SchemaCommand.class);
    ALL.put("changes", ChangesCommand.class);
    ALL.put("compare", CompareCommand.class);
    ALL.put("leftovers", LeftoversCommand.class);
    ALL.put("lift", LiftCommand.class);
    ALL.put("duplicates", DuplicatesCommand.class);
    ALL.put("history", HistoryCommand.class);
    ALL.put("files", FilesCommand.class);
    ALL.put("health", HealthCommand.class);
    ALL.put("check", CheckCommand.class);
    ALL.put("mend", MendCommand.class);
    ALL.put("erase", EraseCommand.class);
    ALL.put("statistics", StatisticsCommand.class);
    ALL.put("drop", DropCommand.class);
    ALL.put("rename", RenameCommand.class);
    ALL.put("bring-back", BringBackCommand.class);
    ALL.put("demo", DemoCommand.class);
    ALL.put("completion", CompletionCommand.class);
    ALL.put("help", HelpCommand.class);
  }

  private Commands() {}

  /** The command that a call begins with; all of them when it begins with something else. */
  static Map<String, Class<?>> of(String... arguments) {
    Class<?> called = arguments.length == 0 ? null : ALL.get(arguments[0]);
    return called == null || called == HelpCommand.class ? ALL : Map.of(arguments[0], called);
  }
}
