package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
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
import org.ysteron.data.Field;
import org.ysteron.internal.text.NearNames;
import org.ysteron.report.TableInfo;

/**
 * The tables of one state of a lake: each namespace is a schema. Only those are looked up that a
 * statement names. For one thread.
 */
final class LakeCatalog extends AbstractSchema {
  /** No namespace is called so. */
  private static final String PINNED = "of then";

  private final LakeView lake;
  private final Map<String, Namespace> namespaces = new HashMap<>();
  private final List<LakeTable> pinned = new ArrayList<>();
  private @Nullable String missing;

  LakeCatalog(LakeView lake) {
    this.lake = lake;
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

  /** A name for one version of a table. */
  SqlIdentifier pin(TableView view, SqlParserPos at) {
    pinned.add(new LakeTable(view));
    return new SqlIdentifier(List.of(PINNED, String.valueOf(pinned.size() - 1)), at);
  }

  /** What to say of a table that was looked for last and is not there, if there is one. */
  Optional<String> missing() {
    return Optional.ofNullable(missing)
        .map(
            name ->
                "There is no table %s.%s"
                    .formatted(
                        name,
                        NearNames.didYouMean(
                            name, lake.tables().stream().map(TableInfo::name).toList())));
  }

  /** The columns of all tables that were found. */
  List<String> columns() {
    return Stream.concat(
            pinned.stream(),
            namespaces.values().stream()
                .flatMap(namespace -> namespace.known.values().stream())
                .flatMap(Optional::stream))
        .flatMap(table -> table.view().schema().columns().stream())
        .map(Field::name)
        .toList();
  }

  private final class Namespace extends AbstractSchema {
    private final String name;
    private final Map<String, Optional<LakeTable>> known = new HashMap<>();

    Namespace(String name) {
      this.name = name;
    }

    @Override
    public Lookup<Table> tables() {
      return new ByName<>() {
        @Override
        public @Nullable Table get(String table) {
          if (name.equals(PINNED)) {
            return pinned.get(Integer.parseInt(table));
          }
          Optional<LakeTable> found =
              known.computeIfAbsent(
                  table, key -> lake.findTable(name + "." + key).map(LakeTable::new));
          missing = found.isPresent() ? missing : name + "." + table;
          return found.orElse(null);
        }
      };
    }
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
