package org.ysteron.sql.inside;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.data.Field;
import org.ysteron.data.Results;
import org.ysteron.maintenance.TableHealth;
import org.ysteron.option.FileChoice;
import org.ysteron.report.Bookmark;
import org.ysteron.report.NamedWriter;
import org.ysteron.report.Position;
import org.ysteron.report.TableFile;
import org.ysteron.report.TableInfo;
import org.ysteron.report.TableStatistics;
import org.ysteron.report.TableVersion;
import org.ysteron.report.ValueRange;

/** The tables of schema {@code lake}: what a lake consists of. For one statement. */
public final class LakeTables {
  /** The schema's name. */
  public static final String SCHEMA = "lake";

  private static final double FEW = 10;
  private static final double MANY = 1000;

  private final LakeView lake;
  private final Map<String, Supplier<InsideTable>> tables = new LinkedHashMap<>();

  /** The tables of a state of a lake. */
  public LakeTables(LakeView lake) {
    this.lake = lake;
    tables.put("tables", this::tables);
    tables.put("versions", this::versions);
    tables.put("files", this::files);
    tables.put("ranges", this::ranges);
    tables.put("layouts", this::layouts);
    tables.put("forms", this::forms);
    tables.put("statistics", this::statistics);
    tables.put("bookmarks", this::bookmarks);
    tables.put("positions", this::positions);
    tables.put("writers", this::writers);
    tables.put("health", this::health);
  }

  /** The names of all tables. */
  public Collection<String> names() {
    return tables.keySet();
  }

  /** A table by its name; empty when there is none. */
  public Optional<InsideTable> find(String name) {
    return Optional.ofNullable(tables.get(name)).map(Supplier::get);
  }

  private Stream<TableView> wanted(Wanted wanted) {
    var isWanted = wanted.test("table_name");
    return lake.tables().stream()
        .filter(table -> isWanted.test(table.name()))
        .map(table -> lake.table(table.name()));
  }

  private InsideTable tables() {
    return InsideTable.of(
        "lake.tables",
        "table_name VARCHAR NOT NULL, table_id UUID NOT NULL, version BIGINT NOT NULL,"
            + " is_dropped BOOLEAN NOT NULL, row_count BIGINT NOT NULL, file_count BIGINT NOT NULL,"
            + " byte_count BIGINT NOT NULL",
        FEW,
        wanted ->
            Stream.concat(lake.tables().stream(), lake.droppedTables().stream())
                .map(LakeTables::row));
  }

  private static Object[] row(TableInfo table) {
    TableVersion.Totals totals = table.totals();
    return InsideTable.row(
        table.name(),
        table.id(),
        table.version(),
        table.dropped(),
        totals.rows(),
        totals.files(),
        totals.bytes());
  }

  private InsideTable versions() {
    return InsideTable.of(
        "lake.versions",
        "table_name VARCHAR NOT NULL, version BIGINT NOT NULL, entry BIGINT NOT NULL,"
            + " committed_at TIMESTAMP WITH TIME ZONE NOT NULL, author VARCHAR NOT NULL,"
            + " program VARCHAR NOT NULL, note VARCHAR NOT NULL, statement VARCHAR NOT NULL,"
            + " operation VARCHAR NOT NULL, files_added BIGINT NOT NULL,"
            + " rows_added BIGINT NOT NULL, files_removed BIGINT NOT NULL,"
            + " rows_removed BIGINT NOT NULL, files_masked BIGINT NOT NULL,"
            + " row_count BIGINT NOT NULL, file_count BIGINT NOT NULL,"
            + " byte_count BIGINT NOT NULL, schema_version BIGINT NOT NULL,"
            + " only_moved BOOLEAN NOT NULL, is_redacted BOOLEAN NOT NULL, rewound_to BIGINT",
        MANY,
        wanted -> {
          OptionalLong least = wanted.least("version");
          return wanted(wanted)
              .flatMap(
                  table -> {
                    long most =
                        least.isPresent()
                            ? table.version() - least.getAsLong() + 1
                            : Long.MAX_VALUE;
                    int limit = (int) Math.max(0, Math.min(Integer.MAX_VALUE, most));
                    return table.history(limit).stream().map(one -> row(table.name(), one));
                  });
        });
  }

  private static Object[] row(String table, TableVersion of) {
    return InsideTable.row(
        table,
        of.version(),
        of.commit().entry(),
        of.commit().time(),
        of.commit().author(),
        of.commit().program(),
        of.commit().note(),
        of.commit().statement(),
        of.operation(),
        of.counts().filesAdded(),
        of.counts().rowsAdded(),
        of.counts().filesRemoved(),
        of.counts().rowsRemoved(),
        of.counts().filesMasked(),
        of.totals().rows(),
        of.totals().files(),
        of.totals().bytes(),
        of.schemaVersion(),
        of.onlyMoved(),
        of.isRedacted(),
        of.rewoundTo().orElse(null));
  }

  private Stream<TableFile> files(TableView table, Wanted wanted) {
    long born = wanted.least("newest_birth").orElse(0);
    boolean masked = wanted.least("masked_rows").orElse(0) > 0;
    Results<TableFile> files = table.files(new FileChoice(Math.max(0, born), masked));
    return files.stream();
  }

  private InsideTable files() {
    return InsideTable.of(
        "lake.files",
        "table_name VARCHAR NOT NULL, file_number BIGINT NOT NULL, path VARCHAR NOT NULL,"
            + " row_count BIGINT NOT NULL, masked_rows BIGINT NOT NULL,"
            + " byte_count BIGINT NOT NULL, oldest_birth BIGINT NOT NULL,"
            + " newest_birth BIGINT NOT NULL, layout_version BIGINT NOT NULL,"
            + " partition_text VARCHAR NOT NULL, sha256 VARCHAR NOT NULL",
        MANY,
        wanted ->
            wanted(wanted)
                .flatMap(table -> files(table, wanted).map(file -> row(table.name(), file))));
  }

  private static Object[] row(String table, TableFile file) {
    return InsideTable.row(
        table,
        file.number(),
        file.name(),
        file.rows(),
        file.maskedRows(),
        file.bytes(),
        file.oldestBirth(),
        file.newestBirth(),
        file.layout(),
        file.partition(),
        file.sha256());
  }

  private InsideTable ranges() {
    return InsideTable.of(
        "lake.ranges",
        "table_name VARCHAR NOT NULL, file_number BIGINT NOT NULL, newest_birth BIGINT NOT NULL,"
            + " column_path VARCHAR NOT NULL, least VARCHAR, greatest VARCHAR,"
            + " null_count BIGINT",
        MANY * FEW,
        wanted -> {
          var isWanted = wanted.test("column_path");
          return wanted(wanted)
              .flatMap(
                  table ->
                      files(table, wanted)
                          .flatMap(
                              file ->
                                  file.ranges().entrySet().stream()
                                      .filter(range -> isWanted.test(range.getKey()))
                                      .map(range -> row(table.name(), file, range))));
        });
  }

  private static Object[] row(String table, TableFile file, Map.Entry<String, ValueRange> range) {
    return InsideTable.row(
        table,
        file.number(),
        file.newestBirth(),
        range.getKey(),
        range.getValue().min().map(String::valueOf).orElse(null),
        range.getValue().max().map(String::valueOf).orElse(null),
        range.getValue().nulls().orElse(null));
  }

  private InsideTable layouts() {
    return InsideTable.of(
        "lake.layouts",
        "table_name VARCHAR NOT NULL, layout_version BIGINT NOT NULL, layout VARCHAR NOT NULL,"
            + " file_count BIGINT NOT NULL, is_current BOOLEAN NOT NULL",
        FEW,
        wanted ->
            wanted(wanted)
                .flatMap(
                    table ->
                        table.layouts().entrySet().stream()
                            .map(
                                one ->
                                    InsideTable.row(
                                        table.name(),
                                        one.getKey(),
                                        one.getValue().toString(),
                                        table.filesOfLayout(one.getKey()),
                                        one.getKey() == table.layoutVersion()))));
  }

  private InsideTable forms() {
    return InsideTable.of(
        "lake.forms",
        "table_name VARCHAR NOT NULL, schema_version BIGINT NOT NULL,"
            + " first_version BIGINT NOT NULL, last_version BIGINT NOT NULL,"
            + " ordinal_position INTEGER NOT NULL, column_id INTEGER NOT NULL,"
            + " column_name VARCHAR NOT NULL, data_type VARCHAR NOT NULL,"
            + " is_nullable BOOLEAN NOT NULL, column_default VARCHAR, column_comment VARCHAR",
        MANY,
        wanted -> wanted(wanted).flatMap(LakeTables::forms));
  }

  /** The columns of each schema that a kept version has. */
  private static Stream<Object[]> forms(TableView table) {
    Map<Long, long[]> spans = new LinkedHashMap<>();
    for (TableVersion of : table.history(Integer.MAX_VALUE)) {
      long[] span =
          spans.computeIfAbsent(of.schemaVersion(), key -> new long[] {of.version(), of.version()});
      span[0] = Math.min(span[0], of.version());
    }
    return spans.entrySet().stream()
        .flatMap(
            span -> {
              TableView then =
                  span.getValue()[1] == table.version() ? table : table.at(span.getValue()[1]);
              List<Object[]> rows = new ArrayList<>();
              for (Field column : then.schema().columns()) {
                rows.add(
                    InsideTable.row(
                        table.name(),
                        span.getKey(),
                        span.getValue()[0],
                        span.getValue()[1],
                        rows.size() + 1,
                        column.id(),
                        column.name(),
                        column.type().toString(),
                        !column.required(),
                        column.defaultText().orElse(null),
                        column.comment().isEmpty() ? null : column.comment()));
              }
              return rows.stream();
            });
  }

  private InsideTable statistics() {
    return InsideTable.of(
        "lake.statistics",
        "table_name VARCHAR NOT NULL, version BIGINT NOT NULL, column_path VARCHAR NOT NULL,"
            + " row_count BIGINT NOT NULL, null_count BIGINT NOT NULL,"
            + " distinct_count BIGINT NOT NULL, least VARCHAR, median VARCHAR, greatest VARCHAR",
        MANY,
        wanted ->
            wanted(wanted)
                .flatMap(
                    table ->
                        table.statistics().stream()
                            .flatMap(
                                all ->
                                    all.columns().stream()
                                        .map(column -> row(table.name(), all, column)))));
  }

  private static Object[] row(String table, TableStatistics all, TableStatistics.Column column) {
    List<Object> quantiles = column.quantiles();
    boolean has = !quantiles.isEmpty();
    return InsideTable.row(
        table,
        all.version(),
        column.path(),
        all.rows(),
        column.nulls(),
        column.distinct(),
        has ? String.valueOf(quantiles.get(0)) : null,
        has ? String.valueOf(quantiles.get(quantiles.size() / 2)) : null,
        has ? String.valueOf(quantiles.get(quantiles.size() - 1)) : null);
  }

  private InsideTable bookmarks() {
    return InsideTable.of(
        "lake.bookmarks",
        "bookmark VARCHAR NOT NULL, table_name VARCHAR, version BIGINT, entry BIGINT NOT NULL,"
            + " made_at TIMESTAMP WITH TIME ZONE NOT NULL",
        FEW,
        wanted -> lake.bookmarks().stream().map(LakeTables::row));
  }

  private static Object[] row(Bookmark of) {
    return InsideTable.row(
        of.name(),
        of.table().orElse(null),
        of.version().isPresent() ? of.version().getAsLong() : null,
        of.entry(),
        of.made());
  }

  private InsideTable positions() {
    return InsideTable.of(
        "lake.positions",
        "reader VARCHAR NOT NULL, table_name VARCHAR NOT NULL, version BIGINT NOT NULL,"
            + " newest_version BIGINT NOT NULL, entry BIGINT NOT NULL, moves BIGINT NOT NULL,"
            + " moved_at TIMESTAMP WITH TIME ZONE NOT NULL,"
            + " ends_at TIMESTAMP WITH TIME ZONE NOT NULL, is_dropped BOOLEAN NOT NULL,"
            + " is_missed BOOLEAN NOT NULL",
        FEW,
        wanted ->
            lake.positions().stream()
                .flatMap(of -> of.tables().stream().map(table -> row(of, table))));
  }

  private static Object[] row(Position of, Position.OfTable table) {
    return InsideTable.row(
        of.name(),
        table.table(),
        table.version(),
        table.newest(),
        of.entry(),
        of.moves(),
        of.moved(),
        of.ends(),
        table.isDropped(),
        table.isMissed());
  }

  private InsideTable writers() {
    return InsideTable.of(
        "lake.writers",
        "table_name VARCHAR NOT NULL, writer VARCHAR NOT NULL, session BIGINT NOT NULL,"
            + " last_number BIGINT",
        FEW,
        wanted ->
            wanted(wanted)
                .flatMap(
                    table -> table.writers().stream().map(writer -> row(table.name(), writer))));
  }

  private static Object[] row(String table, NamedWriter writer) {
    OptionalLong number = writer.sequence();
    return InsideTable.row(
        table, writer.name(), writer.session(), number.isPresent() ? number.getAsLong() : null);
  }

  private InsideTable health() {
    return InsideTable.of(
        "lake.health",
        "table_name VARCHAR NOT NULL, version BIGINT NOT NULL, finding VARCHAR NOT NULL,"
            + " file_count BIGINT NOT NULL, byte_count BIGINT NOT NULL,"
            + " row_count BIGINT NOT NULL, cost_bytes BIGINT NOT NULL,"
            + " saves_files BIGINT NOT NULL, saves_bytes BIGINT NOT NULL,"
            + " remedy VARCHAR NOT NULL",
        FEW,
        wanted ->
            wanted(wanted)
                .map(TableView::health)
                .flatMap(of -> of.findings().stream().map(finding -> row(of, finding))));
  }

  private static Object[] row(TableHealth of, TableHealth.Finding finding) {
    return InsideTable.row(
        of.table(),
        of.version(),
        finding.kind().words(),
        finding.files(),
        finding.bytes(),
        finding.rows(),
        finding.costBytes(),
        finding.savesFiles(),
        finding.savesBytes(),
        finding.kind().help());
  }
}
