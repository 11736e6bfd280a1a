package org.ysteron.maintenance;

import java.util.List;
import org.ysteron.report.TableVersion;

/**
 * The state of the files of a table, and what would improve it.
 *
 * @param table the name of the table
 * @param version the version that was examined
 * @param totals rows, files and bytes of that version
 * @param findings possible improvements, the most bytes first
 * @param metadata pages and bytes of metadata that list its files
 * @param olderBytes bytes of data files in the store that this version does not use, but earlier
 *     versions or none
 * @param openings how many files ranges of the columns of a curve would open; empty without a curve
 */
public record TableHealth(
    String table,
    long version,
    TableVersion.Totals totals,
    List<Finding> findings,
    Metadata metadata,
    long olderBytes,
    List<Opening> openings) {
  public TableHealth {
    findings = List.copyOf(findings);
    openings = List.copyOf(openings);
  }

  /**
   * How many files a range of one or two columns opens on average, that holds a thirty-second of
   * the values of each.
   *
   * @param columns their paths
   * @param files of all files of the table
   */
  public record Opening(List<String> columns, double files) {
    public Opening {
      columns = List.copyOf(columns);
    }
  }

  /** What can be the matter with files. */
  public enum Kind {
    /** They are less than half as large as they are to be. */
    SMALL_FILES("files below half of file.bytes", "compact"),
    /** They have rows that no longer count. */
    MASKED_ROWS("files with masked rows", "compact"),
    /** They are laid out by an earlier layout. */
    OLD_LAYOUT("files of earlier layouts", "compact --renew"),
    /** They have the columns of an earlier schema. */
    OLD_SCHEMA("files of earlier schemas", "compact --renew"),
    /** Their rows are not in the order that the layout asks for. */
    OUT_OF_ORDER("files whose rows are not in the layout's order", "compact --renew");

    private final String words;
    private final String help;

    Kind(String words, String help) {
      this.words = words;
      this.help = help;
    }

    /** For people: which files it is about. */
    public String words() {
      return words;
    }

    /** The command of the tool that helps. */
    public String help() {
      return help;
    }
  }

  /**
   * Something that could be better.
   *
   * @param kind what
   * @param files files that it is about
   * @param bytes their sizes together
   * @param rows of masked rows those, of all others the rows in these files that count
   * @param costBytes bytes that {@link Kind#help()} would read now; 0 when it would do nothing yet
   * @param savesFiles how many files fewer there would be, about
   * @param savesBytes how many bytes fewer a full scan would read, about
   */
  public record Finding(
      Kind kind,
      long files,
      long bytes,
      long rows,
      long costBytes,
      long savesFiles,
      long savesBytes) {}

  /**
   * The metadata of one version's files.
   *
   * @param height pages above a leaf
   * @param pages pages of the tree of files
   * @param bytes their sizes together
   */
  public record Metadata(int height, long pages, long bytes) {}
}
