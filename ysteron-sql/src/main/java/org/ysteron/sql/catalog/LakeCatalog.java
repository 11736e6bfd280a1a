package org.ysteron.sql.catalog;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Stream;
import org.apache.calcite.schema.Schema;
import org.apache.calcite.schema.Table;
import org.apache.calcite.schema.impl.AbstractSchema;
import org.apache.calcite.schema.lookup.LikePattern;
import org.apache.calcite.schema.lookup.Lookup;
import org.apache.calcite.schema.lookup.Named;
import org.apache.calcite.sql.SqlIdentifier;
import org.apache.calcite.sql.parser.SqlParserPos;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.TableView;
import org.ysteron.internal.text.NearNames;
import org.ysteron.report.TableInfo;
import org.ysteron.sql.inside.InformationSchema;
import org.ysteron.sql.inside.InsideStep;
import org.ysteron.sql.inside.InsideTable;
import org.ysteron.sql.inside.LakeTables;
import org.ysteron.sql.inside.Wanted;

/**
 * The tables of one state of a lake: each namespace is a schema. Only those are looked up that a
 * statement names. For one thread.
 */
public final class LakeCatalog extends AbstractSchema {
  /** No namespace is called so. */
  private static final String PINNED = "of then";

  private final LakeView lake;
  private final Function<TableView, PlannedTable> tables;
  private final Map<String, Namespace> namespaces = new HashMap<>();
  private final List<PlannedTable> pinned = new ArrayList<>();
  private @Nullable String missing;

  public LakeCatalog(LakeView lake) {
    this(lake, LakeTable::new);
  }

  /** {@code tables}: how the planner knows a table of the state. */
  public LakeCatalog(LakeView lake, Function<TableView, PlannedTable> tables) {
    this.lake = lake;
    this.tables = tables;
  }

  @Override
  public Lookup<Table> tables() {
    return Lookup.empty();
  }

  @Override
  public Lookup<? extends Schema> subSchemas() {
    return new ByName<Schema>() {
      @Override
      public Schema get(String name) {
        return namespaces.computeIfAbsent(name, Namespace::new);
      }
    };
  }

  /** A name for a table that has no other. */
  public SqlIdentifier pin(PlannedTable table, SqlParserPos at) {
    pinned.add(table);
    return new SqlIdentifier(List.of(PINNED, String.valueOf(pinned.size() - 1)), at);
  }

  /** What to say of a table that was looked for last and is not there, if there is one. */
  public Optional<String> missing() {
    return Optional.ofNullable(missing).map(this::missing);
  }

  /** What to say of a table that is not there. */
  public String missing(String name) {
    return "There is no table %s.%s".formatted(name, hint(name));
  }

  private String hint(String name) {
    List<String> all = names();
    List<String> fuller =
        name.contains(".")
            ? List.of()
            : all.stream().filter(one -> one.endsWith("." + name)).toList();
    return fuller.isEmpty()
        ? NearNames.didYouMean(name, all)
        : " Write it with its namespace: %s.".formatted(String.join(" or ", fuller));
  }

  private List<String> names() {
    return Stream.of(
            lake.tables().stream().map(TableInfo::name),
            new LakeTables(lake).names().stream().map(name -> LakeTables.SCHEMA + "." + name),
            new InformationSchema(lake, false)
                .names().stream().map(name -> InformationSchema.SCHEMA + "." + name))
        .flatMap(names -> names)
        .toList();
  }

  /** The columns of all tables that were found. */
  public List<String> columns() {
    return Stream.concat(
            pinned.stream(),
            namespaces.values().stream()
                .flatMap(namespace -> namespace.known.values().stream())
                .flatMap(Optional::stream))
        .flatMap(table -> table.names().stream())
        .toList();
  }

  private final class Namespace extends AbstractSchema {
    private final String name;
    private final Map<String, Optional<PlannedTable>> known = new HashMap<>();

    Namespace(String name) {
      this.name = name;
    }

    private Optional<PlannedTable> found(String table) {
      Optional<PlannedTable> inside = inside(name, table);
      return inside.isPresent() ? inside : lake.findTable(name + "." + table).map(tables);
    }

    @Override
    public Lookup<Table> tables() {
      return new ByName<>() {
        @Override
        public @Nullable Table get(String table) {
          if (name.equals(PINNED)) {
            return pinned.get(Integer.parseInt(table));
          }
          Optional<PlannedTable> found = known.computeIfAbsent(table, Namespace.this::found);
          missing = found.isPresent() ? missing : name + "." + table;
          return found.orElse(null);
        }
      };
    }
  }

  /** The tables of which a lake consists, under names that no table of it has. */
  private Optional<PlannedTable> inside(String schema, String table) {
    Optional<InsideTable> inside =
        schema.equals(LakeTables.SCHEMA)
            ? new LakeTables(lake).find(table)
            : schema.equalsIgnoreCase(InformationSchema.SCHEMA)
                ? new InformationSchema(lake, !schema.equals(InformationSchema.SCHEMA)).find(table)
                : Optional.empty();
    return inside.map(of -> new OtherTable(new InsideStep(of, Wanted.ALL), of.size()));
  }

  /** Names are as they were given, and never listed. */
  private abstract static class ByName<T> implements Lookup<T> {
    @Override
    public @Nullable Named<T> getIgnoreCase(String name) {
      T found = get(name);
      return found == null ? null : new Named<>(name, found);
    }

    @Override
    public Set<String> getNames(LikePattern pattern) {
      return Set.of();
    }
  }
}
