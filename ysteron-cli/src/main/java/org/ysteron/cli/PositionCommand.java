package org.ysteron.cli;

import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeHandle;
import org.ysteron.option.Retention;
import org.ysteron.report.Position;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** {@code ysteron position}. */
@Command(
    name = "position",
    description = {
      "List the positions of readers, or set one.",
      "A position is the name of a reader with the versions of tables up to which it has read. The reader is a program, which moves its position in the transaction that processes the changes. The versions that it has read do not expire before its limit. To see what it has yet to read, use 'changes TABLE --since NAME'."
    },
    footerHeading = Main.EXAMPLE,
    footer = "  ysteron position hourly tide.readings --at 4 --limit P7D")
final class PositionCommand extends LakeCommand {
  @Spec private CommandSpec spec;

  @Parameters(
      index = "0",
      arity = "0..1",
      paramLabel = "NAME",
      description = "Name of the position (default: list all positions).")
  private String name;

  @Parameters(
      index = "1..*",
      arity = "0..*",
      paramLabel = "TABLE",
      description = "Tables whose changes are read.")
  private List<String> tables = List.of();

  @Mixin private AtOption at;

  @Option(
      names = "--limit",
      paramLabel = "DURATION",
      defaultValue = "P30D",
      description =
          "How long the versions that it has read are kept, from now and from each time that it is moved; ISO 8601 duration (default: ${DEFAULT-VALUE}).")
  private String limit;

  @Option(names = "--drop", description = "Remove the position.")
  private boolean drop;

  @Mixin private Listing.Options listing;
  @Mixin private WriteOptions write;

  @Override
  void run(LakeHandle opened) {
    if (name == null) {
      list(opened.positions());
      return;
    }
    if (drop && (at.isGiven() || !tables.isEmpty())) {
      throw new ParameterException(spec.commandLine(), "Use --drop without TABLE and --at.");
    }
    if (!drop && tables.isEmpty()) {
      list(List.of(opened.position(name)));
      return;
    }
    LakeHandle lake = write.applyTo(opened, "position " + name);
    if (drop) {
      lake.dropPosition(name);
      out().println("Removed position " + name + ".");
      return;
    }
    Map<String, Long> versions = new TreeMap<>();
    tables.forEach(table -> versions.put(table, at.view(lake, table).version()));
    Optional<Position> before =
        lake.positions().stream().filter(known -> known.name().equals(name)).findFirst();
    Instant now = Instant.now();
    lake.setPosition(
        name,
        versions,
        Duration.between(Retention.before(now, Retention.parsePositive(limit)), now));
    Position made = lake.position(name);
    before.ifPresent(old -> tellSkipped(old, made));
    for (Position.OfTable table : made.tables()) {
      out()
          .println(
              "The position %s has read %s up to version %d; version %d is the newest."
                  .formatted(name, table.table(), table.version(), table.newest()));
    }
    out().println("It keeps what it has read until %s.".formatted(seconds(made.ends())));
  }

  /** What the reader had not read yet, and now will not. */
  private void tellSkipped(Position before, Position made) {
    for (Position.OfTable old : before.tables()) {
      for (Position.OfTable now : made.tables()) {
        if (now.table().equals(old.table()) && now.version() > old.version()) {
          out()
              .println(
                  "Changes of %s since version %d were unread; they are skipped up to version %d."
                      .formatted(now.table(), old.version(), now.version()));
        }
      }
    }
  }

  private static Instant seconds(Instant time) {
    return time.truncatedTo(ChronoUnit.SECONDS);
  }

  private void list(List<Position> positions) {
    if (positions.isEmpty() && listing.isText()) {
      out().println("The lake has no positions.");
      return;
    }
    Listing list =
        listing.listing(
            out(), "name", "table", "version", "newest", "state", "moves", "moved", "kept until");
    for (Position position : positions) {
      if (position.tables().isEmpty()) {
        list.row(row(position, null, null, null, "no tables"));
      }
      for (Position.OfTable table : position.tables()) {
        list.row(row(position, table.table(), table.version(), table.newest(), state(table)));
      }
    }
    list.end();
  }

  private Object[] row(
      Position position,
      @Nullable String table,
      @Nullable Long version,
      @Nullable Long newest,
      String state) {
    return new Object[] {
      position.name(),
      table,
      version,
      newest,
      state,
      position.moves(),
      listing.isText() ? seconds(position.moved()) : position.moved(),
      listing.isText() ? seconds(position.ends()) : position.ends()
    };
  }

  private static String state(Position.OfTable table) {
    if (table.isMissed()) {
      return "missed";
    }
    if (table.isDropped()) {
      return "dropped";
    }
    return table.version() == table.newest() ? "up to date" : "unread";
  }
}
