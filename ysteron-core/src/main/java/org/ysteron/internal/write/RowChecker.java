package org.ysteron.internal.write;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.IntFunction;
import java.util.stream.IntStream;
import org.ysteron.data.Batch;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;
import org.ysteron.data.VectorBuilder;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.internal.bytes.Utf8;
import org.ysteron.internal.compute.ComputeException;
import org.ysteron.internal.drift.RowFitter;
import org.ysteron.internal.filter.Filter;
import org.ysteron.internal.form.Checks;
import org.ysteron.internal.form.Defaults;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.text.NearNames;
import org.ysteron.option.Check;
import org.ysteron.option.WriteRules;

/**
 * Takes rows, checks each value against its column and each row against the checks, and makes
 * batches of them. A row, or a batch, that is refused is left out as a whole; the others stay. Rows
 * are counted from 1 over all batches, refused rows included, and an error names row, column, value
 * and type. For one thread.
 */
public final class RowChecker {
  private static final int BATCH_ROWS = 8192;
  private static final long BATCH_BYTES = 4 << 20;
  private static final int LOOK_EVERY = 256;

  private final Schema schema;
  private final List<Field> columns;
  private final VectorBuilder[] builders;
  private final Object[] accepted;
  private final Map<Check, Filter> violations = new LinkedHashMap<>();

  /** Where the columns are that checks look at. */
  private final int[] tested;

  private final Type.Struct testedColumns;
  private final VectorBuilder[] singles;
  private final Defaults defaults;
  private int size;
  private long rowNumber;

  /**
   * For rows of a table.
   *
   * @param now when the statement began that writes them
   */
  public RowChecker(TableForm form, Instant now) {
    this.schema = form.schema();
    this.defaults = new Defaults(now);
    form.checks().forEach(check -> violations.put(check, Checks.violation(check, schema)));
    this.columns = schema.columns();
    this.accepted = new Object[columns.size()];
    this.builders =
        columns.stream()
            .map(column -> new VectorBuilder(column.type()))
            .toArray(VectorBuilder[]::new);
    this.tested =
        IntStream.range(0, columns.size())
            .filter(c -> violations.keySet().stream().anyMatch(x -> looksAt(x, columns.get(c))))
            .toArray();
    this.testedColumns = new Type.Struct(Arrays.stream(tested).mapToObj(columns::get).toList());
    this.singles =
        testedColumns.fields().stream()
            .map(column -> new VectorBuilder(column.type(), 1))
            .toArray(VectorBuilder[]::new);
  }

  private static boolean looksAt(Check check, Field column) {
    return check.condition().columns().stream()
        .anyMatch(path -> Schema.parsePath(path).get(0).equals(column.name()));
  }

  public void countFrom(long rowsBefore) {
    rowNumber = rowsBefore;
  }

  /** Adds a row given by all its values in the order of the columns. */
  void add(Object[] values) {
    rowNumber++;
    take(values);
  }

  private void take(Object[] values) {
    test(values);
    for (int c = 0; c < values.length; c++) {
      builders[c].add(accepted[c]);
    }
    size++;
  }

  /**
   * Looks at a row without adding it.
   *
   * @return its values as the columns have them, until the next call
   */
  public Object[] test(Object[] values) {
    if (values.length != columns.size()) {
      throw RejectedRowException.that(
          rowNumber,
          "has %d values, but the table has %d columns: %s"
              .formatted(
                  values.length,
                  columns.size(),
                  NearNames.list(columns.stream().map(Field::name).toList())));
    }
    for (int c = 0; c < values.length; c++) {
      accepted[c] = accept(values[c], columns.get(c));
    }
    if (!violations.isEmpty()) {
      constrain(rowOfAccepted(), rowNumber - 1, i -> Row.of(schema.struct(), accepted));
    }
    return accepted;
  }

  /** Whether rows are tested by more than the types of their columns. */
  public boolean hasChecks() {
    return !violations.isEmpty();
  }

  /** The columns of the accepted row that checks look at; it is taken or refused at once. */
  private Batch rowOfAccepted() {
    List<Vector> vectors = new ArrayList<>(tested.length);
    for (int i = 0; i < tested.length; i++) {
      vectors.add(singles[i].single(accepted[tested[i]]));
    }
    return new Batch(testedColumns, 1, vectors);
  }

  /** Adds a row given by names; a column that it lacks gets its default, or null. */
  void add(Row row) {
    rowNumber++;
    Object[] values = new Object[columns.size()];
    int found = 0;
    for (int c = 0; c < values.length; c++) {
      int at = position(row, columns.get(c).name(), c);
      if (at >= 0) {
        values[c] = row.get(at);
        found++;
      } else {
        values[c] = columns.get(c).standard();
      }
    }
    if (found < row.fields().size()) {
      try {
        new RowFitter(schema, WriteRules.STRICT, -1).fit(row);
      } catch (InvalidInputException e) {
        throw new RejectedRowException(rowNumber, e.getMessage(), e);
      }
    }
    take(values);
  }

  /** Where a row has a column; most often at the same place. */
  private static int position(Row row, String name, int guess) {
    List<Field> fields = row.fields();
    if (guess < fields.size() && fields.get(guess).name().equals(name)) {
      return guess;
    }
    for (int i = 0; i < fields.size(); i++) {
      if (fields.get(i).name().equals(name)) {
        return i;
      }
    }
    return -1;
  }

  private Object accept(Object value, Field column) {
    try {
      return Values.acceptField(defaults.of(value, column), column);
    } catch (InvalidInputException e) {
      throw wrong(rowNumber, column, e.getMessage(), e);
    }
  }

  private static InvalidInputException wrong(long row, Field column, String what, Throwable cause) {
    return new RejectedRowException(row, column.name(), column.type(), what, cause);
  }

  boolean isFull() {
    if (size >= BATCH_ROWS) {
      return true;
    }
    if (size % LOOK_EVERY != 0) {
      return false;
    }
    long bytes = 0;
    for (VectorBuilder builder : builders) {
      bytes += builder.heldBytes();
    }
    return bytes >= BATCH_BYTES;
  }

  boolean isEmpty() {
    return size == 0;
  }

  /** The rows so far. */
  Batch take() {
    Batch batch =
        new Batch(
            schema.struct(), size, Arrays.stream(builders).map(VectorBuilder::build).toList());
    size = 0;
    return batch;
  }

  /** Checks a batch that somebody else made; its columns must be the table's, in its order. */
  public Batch check(Batch batch) {
    if (batch.vectors().size() != columns.size()) {
      throw new InvalidInputException(
          "A batch has %d columns, but the table has %d."
              .formatted(batch.vectors().size(), columns.size()));
    }
    for (int c = 0; c < columns.size(); c++) {
      Field column = columns.get(c);
      Field given = batch.columns().fields().get(c);
      Vector vector = batch.vectors().get(c);
      if (!given.name().equals(column.name())) {
        throw new InvalidInputException(
            "Column %d of a batch is %s, but of the table it is %s."
                .formatted(c + 1, given.name(), column.name()));
      }
      check(vector, column, batch.size());
    }
    constrain(batch, rowNumber, batch::row);
    rowNumber += batch.size();
    return batch;
  }

  /** Refuses rows for which a check is false. */
  private void constrain(Batch batch, long rowsBefore, IntFunction<Row> rows) {
    violations.forEach(
        (check, violation) -> {
          long[] broken;
          try {
            broken = violation.select(batch);
          } catch (ComputeException e) {
            throw RejectedRowException.that(
                rowsBefore + e.row() + 1,
                "(%s) cannot be tested by the check %s: %s"
                    .formatted(told(rows.apply(e.row()), check), check.name(), e.getMessage()));
          }
          for (int w = 0; w < broken.length; w++) {
            if (broken[w] != 0) {
              int row = (w << 6) + Long.numberOfTrailingZeros(broken[w]);
              throw RejectedRowException.that(
                  rowsBefore + row + 1,
                  "(%s) breaks the check %s: %s is false"
                      .formatted(told(rows.apply(row), check), check.name(), check.condition()));
            }
          }
        });
  }

  /** The key of a row and the columns of a check. */
  private String told(Row row, Check check) {
    StringBuilder text = new StringBuilder();
    for (Field field : row.fields()) {
      if (schema.key().contains(field.name()) || looksAt(check, field)) {
        text.append(text.isEmpty() ? "" : ", ").append(field.name()).append(" = ");
        text.append(Values.literal(row.get(field.name())));
      }
    }
    return text.toString();
  }

  private void check(Vector vector, Field column, int count) {
    if (column.type().isNested() || vector.type().isNested()) {
      if (!isText(vector)) {
        throw wrong(rowNumber + 1, column, "it contains bytes that are not valid UTF-8", null);
      }
      for (int i = 0; i < count; i++) {
        Object value = vector.get(i);
        try {
          Values.acceptField(value, column);
        } catch (InvalidInputException e) {
          throw wrong(rowNumber + i + 1, column, e.getMessage(), e);
        }
      }
      return;
    }
    if (!vector.type().equals(column.type())) {
      throw InvalidInputException.ofColumn(
          column.name(),
          "Column %s of a batch is %s, but of the table it is %s."
              .formatted(column.name(), vector.type(), column.type()));
    }
    if (column.required() && vector.nullCount() > 0) {
      int row = 0;
      while (!vector.isNull(row)) {
        row++;
      }
      throw wrong(rowNumber + row + 1, column, "null, but " + column.name() + " is NOT NULL", null);
    }
    if (isPlainText(vector, column.type(), count)) {
      return;
    }
    boolean bounded = column.type() instanceof Type.Decimal || column.type().isText();
    for (int i = 0; bounded && i < count; i++) {
      if (!vector.isNull(i) && !fits(vector, i, column.type())) {
        if (!isText(vector, i)) {
          throw wrong(rowNumber + i + 1, column, "its bytes are not valid UTF-8", null);
        }
        try {
          Values.accept(vector.present(i), column.type());
        } catch (InvalidInputException e) {
          throw wrong(rowNumber + i + 1, column, e.getMessage(), e);
        }
      }
    }
  }

  /** Whether a vector is all ASCII and short enough, by a look at all its bytes at once. */
  private static boolean isPlainText(Vector vector, Type type, int count) {
    if (!(type instanceof Type.Text text) || !(vector instanceof Vector.OfBytes bytes)) {
      return false;
    }
    int start = Integer.MAX_VALUE;
    int end = 0;
    int longest = 0;
    long sum = 0;
    for (int i = 0; i < count; i++) {
      int length = bytes.lengths()[i];
      if (length > 0) {
        start = Math.min(start, bytes.starts()[i]);
        end = Math.max(end, bytes.starts()[i] + length);
        longest = Math.max(longest, length);
        sum += length;
      }
    }
    boolean near = end - (long) start <= 2 * sum; // else most of it is not of these values
    return end == 0
        || (near
            && (text.limit().isEmpty() || longest <= text.limit().getAsInt())
            && Utf8.isAscii(bytes.data(), start, end));
  }

  /** Whether all bytes below a vector that are to be text are so. */
  private static boolean isText(Vector vector) {
    if (vector instanceof Vector.OfList list) {
      return isText(list.elements());
    }
    if (vector instanceof Vector.OfMap map) {
      return isText(map.keys()) && isText(map.mapped());
    }
    if (vector instanceof Vector.OfStruct struct) {
      return struct.fields().stream().allMatch(RowChecker::isText);
    }
    return IntStream.range(0, vector.size()).allMatch(i -> vector.isNull(i) || isText(vector, i));
  }

  private static boolean isText(Vector vector, int i) {
    return !vector.type().isText()
        || (vector instanceof Vector.OfBytes bytes
            && Utf8.isWhole(bytes.data(), bytes.starts()[i], bytes.lengths()[i]));
  }

  /** A quick test that most values pass; the others are looked at closely. */
  private static boolean fits(Vector vector, int i, Type type) {
    if (type instanceof Type.Text text && vector instanceof Vector.OfBytes bytes) {
      return (text.limit().isEmpty() || bytes.lengths()[i] <= text.limit().getAsInt())
          && isText(vector, i);
    }
    if (type instanceof Type.Decimal decimal && vector instanceof Vector.OfLong longs) {
      long value = longs.values()[i];
      long limit = POWERS[decimal.precision()];
      return value < limit && value > -limit;
    }
    return false;
  }

  private static final long[] POWERS = new long[19];

  static {
    POWERS[0] = 1;
    for (int i = 1; i < POWERS.length; i++) {
      POWERS[i] = POWERS[i - 1] * 10;
    }
  }
}
