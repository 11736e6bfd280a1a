package org.ysteron.internal.seen;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Vector;
import org.ysteron.expr.Condition;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.filter.Verdict;
import org.ysteron.internal.form.Proof;
import org.ysteron.internal.keys.KeyHash;
import org.ysteron.internal.keys.KeyIndex;
import org.ysteron.internal.read.FileScan;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.read.TableScan;
import org.ysteron.internal.rows.RowText;
import org.ysteron.internal.table.FileEntry;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.internal.text.Counted;
import org.ysteron.option.Check;

/**
 * Proves what an alteration asks of the rows: from ranges and counts of nulls where they decide it,
 * else by reading the columns in question of the files that they leave. For one thread.
 */
public final class Proofs {
  private static final int MOST_SAMPLES = 3;
  private static final String DOUBLES = "Delete duplicates first, or choose a key that is unique.";

  private final SeenTable table;
  private final ReadContext context;
  private final VersionPage page;
  private final Schema schema;

  /** {@code page}: the table as it will be, apart from the rows. */
  public Proofs(SeenTable table, VersionPage page) {
    this.table = table;
    this.context = table.context();
    this.page = page;
    this.schema = page.schema();
  }

  /**
   * What speaks against a proof.
   *
   * @param what which promise is broken, by how many rows, some of which are shown
   * @param then what to do about it
   * @param rows where they are, in files that were named
   */
  public record Against(String what, String then, Map<FileEntry, RoaringBitmap> rows) {
    @Override
    public String toString() {
      return then.isEmpty() ? what : what + ". " + then;
    }
  }

  /** What speaks against a proof in all rows of the page; empty when it holds. */
  public Optional<Against> against(Proof proof) {
    return against(proof, null);
  }

  /** What speaks against a proof in the rows of some files. */
  public Optional<Against> against(Proof proof, List<FileEntry> files) {
    if (proof instanceof Proof.NoRows none) {
      long rows =
          files == null
              ? page.record().totals().rows()
              : files.stream().mapToLong(FileEntry::liveRows).sum();
      return rows == 0
          ? Optional.empty()
          : Optional.of(new Against(none.otherwise(), "", Map.of()));
    }
    if (proof instanceof Proof.UniqueKey) {
      return files == null ? duplicates() : duplicates(files);
    }
    if (proof instanceof Proof.Holds holds) {
      Check check = page.form().check(holds.check()).orElseThrow();
      return broken(
          check.condition().not(),
          files,
          "The check %s (%s) is false".formatted(check.name(), check.condition()),
          "Change or delete these rows first.");
    }
    Field field = schema.field(((Proof.NoNulls) proof).fieldId()).orElseThrow();
    String path = schema.pathOf(field.id());
    String what = "Column " + path + " is null";
    String then = "Give them a value or delete them first, or keep the column nullable.";
    List<String> names = Schema.parsePath(path);
    if (isBelowRepetition(names)) {
      return nullsInside(names, field, files, what, then);
    }
    Condition isNull = Condition.column(path).isNull();
    if (names.size() > 1) {
      String parent = Schema.path(names.subList(0, names.size() - 1));
      isNull = isNull.and(Condition.column(parent).isNotNull());
    }
    return broken(isNull, files, what, then);
  }

  private boolean isBelowRepetition(List<String> names) {
    for (int depth = 1; depth < names.size(); depth++) {
      Type type = schema.find(Schema.path(names.subList(0, depth))).type();
      if (!(type instanceof Type.Struct)) {
        return true;
      }
    }
    return false;
  }

  private Optional<Against> broken(
      Condition violation, List<FileEntry> files, String what, String then) {
    Found found = new Found();
    each(page.filter(violation, context.pages()), files, described(), found::add);
    return found.against(what, then);
  }

  /** Rows that speak against a proof. For one thread. */
  private final class Found {
    private final Map<FileEntry, RoaringBitmap> rows = new LinkedHashMap<>();
    private final List<String> samples = new ArrayList<>();
    private long count;

    void add(Batch batch, Source source) {
      for (int i = 0; i < batch.size(); i++) {
        add(batch, i, source);
      }
    }

    void add(Batch batch, int row, Source source) {
      count++;
      if (samples.size() < MOST_SAMPLES) {
        samples.add(RowText.of(schema, batch.row(row)));
      }
      source.mark(row, rows);
    }

    Optional<Against> against(String what, String then) {
      if (count == 0) {
        return Optional.empty();
      }
      String told =
          "%s in %s, such as %s"
              .formatted(what, Counted.of(count, "row"), String.join("; ", samples));
      return Optional.of(new Against(told, then, rows));
    }
  }

  /** Where a batch is from. */
  private interface Source {
    Source ANYWHERE = (row, rows) -> {};

    /** Marks the place of a row of the batch. */
    void mark(int row, Map<FileEntry, RoaringBitmap> rows);
  }

  /** The columns by which a row is told to people. */
  private Schema described() {
    return schema.key().isEmpty()
        ? schema
        : schema.select(schema.key().stream().map(name -> Schema.path(List.of(name))).toList());
  }

  private interface Rows {
    void batch(Batch batch, Source source);
  }

  private void each(Filter filter, List<FileEntry> files, Schema wanted, Rows rows) {
    if (files == null) {
      TableScan scan = new TableScan(context, page, wanted, filter, Long.MAX_VALUE);
      scan.each(batch -> rows.batch(batch, Source.ANYWHERE));
      return;
    }
    for (FileEntry file : files) {
      Verdict verdict = filter.testFiles(file);
      if (verdict != Verdict.NONE) {
        ScanPlan.Task task = new ScanPlan.Task(page, file, verdict != Verdict.ALL);
        new FileScan(context, task, wanted, filter)
            .located(file)
            .each(
                found ->
                    rows.batch(
                        found.rows(),
                        (row, marked) ->
                            marked
                                .computeIfAbsent(file, f -> new RoaringBitmap())
                                .add(found.position(row))));
      }
    }
  }

  /** Below lists and maps nothing is known without reading. */
  private Optional<Against> nullsInside(
      List<String> names, Field field, List<FileEntry> files, String what, String then) {
    Field column = schema.find(Schema.path(names.subList(0, 1)));
    List<Field> wanted = new ArrayList<>(described().columns());
    if (wanted.stream().noneMatch(known -> known.id() == column.id())) {
      wanted.add(column);
    }
    Found found = new Found();
    each(
        Filter.bind(Condition.all(), schema),
        files,
        Schema.stored(wanted, List.of(), schema.lastId()),
        (batch, source) -> {
          Vector vector = batch.vector(column.name());
          for (int i = 0; i < batch.size(); i++) {
            if (holdsNull(vector.get(i), column.type(), field.id())) {
              found.add(batch, i, source);
            }
          }
        });
    return found.against(what, then);
  }

  private static boolean holdsNull(Object value, Type type, int id) {
    if (value == null) {
      return false;
    }
    if (type instanceof Type.ListOf list) {
      return ((List<?>) value).stream().anyMatch(each -> isNull(each, list.element(), id));
    }
    if (type instanceof Type.MapOf map) {
      return ((Map<?, ?>) value).values().stream().anyMatch(each -> isNull(each, map.value(), id));
    }
    if (type instanceof Type.Struct struct) {
      Row row = (Row) value;
      for (int f = 0; f < struct.fields().size(); f++) {
        if (isNull(row.get(f), struct.fields().get(f), id)) {
          return true;
        }
      }
    }
    return false;
  }

  private static boolean isNull(Object value, Field field, int id) {
    return field.id() == id ? value == null : holdsNull(value, field.type(), id);
  }

  /** Rows of some files with a key that another row of the table has. */
  private Optional<Against> duplicates(List<FileEntry> files) {
    KeyTest.Found found = KeyTest.ofFiles(table, page, files).inTable(page, files);
    return found.isNothing()
        ? Optional.empty()
        : Optional.of(new Against(found.told(), DOUBLES, found.rows()));
  }

  /** Reads the key columns of all rows, in parts of some million keys by their hash. */
  private Optional<Against> duplicates() {
    Schema wanted = described();
    int parts = (int) (page.record().totals().rows() / KeyIndex.most()) + 1;
    Found found = new Found();
    for (int part = 0; part < parts; part++) {
      int current = part;
      KeyIndex index = new KeyIndex(schema.keyIds(), 1 << 16);
      KeyHash hash = new KeyHash();
      each(
          Filter.bind(Condition.all(), schema),
          null,
          wanted,
          (batch, source) -> {
            Vector[] key = batch.vectors().toArray(new Vector[0]);
            for (int i = 0; i < batch.size(); i++) {
              if (hash.hash(key, i)
                  && Long.remainderUnsigned(hash.second(), parts) == current
                  && index.put(hash.first(), hash.second(), 0) >= 0) {
                found.add(batch, i, source);
              }
            }
          });
    }
    return found.against(
        "The key (" + String.join(", ", schema.key()) + ") is there already", DOUBLES);
  }
}
