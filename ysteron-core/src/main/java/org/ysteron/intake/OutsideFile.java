package org.ysteron.intake;

import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import de.siegmar.fastcsv.reader.CsvRecordHandler;
import de.siegmar.fastcsv.reader.FieldModifier;
import java.io.BufferedReader;
import java.io.FilterInputStream;
import java.io.FilterReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.Reader;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.CodingErrorAction;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.OptionalLong;
import java.util.Set;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.RowSink;
import org.ysteron.data.Schema;
import org.ysteron.data.TextRow;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.data.ValueText;
import org.ysteron.data.Values;
import org.ysteron.error.CancelledException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.RejectedRowException;
import org.ysteron.internal.text.NearNames;
import org.ysteron.internal.work.Watch;
import org.ysteron.progress.Progress;
import org.ysteron.progress.ProgressMonitor;

/**
 * A CSV file (RFC 4180, with a header line) or a file of JSON objects, one a line or in one array,
 * in UTF-8. {@link #read} is strict: every column of the file must be a column of the table, a
 * column that the file lacks must have a default or be nullable, and every value must be of its
 * column's type. In CSV an empty field is null; an empty field in quotes is an empty value if the
 * column is of text or binary.
 */
public final class OutsideFile {
  /** What an empty field in quotes is read as; told from a field without quotes by identity. */
  @SuppressWarnings("StringOperationCanBeSimplified")
  private static final String QUOTED = new String("");

  private static final int BYTE_ORDER_MARK = 0xfeff;

  private final String name;
  private final Opening opening;
  private final Supplier<OptionalLong> size;
  private final Kind kind;

  /** The file format. */
  public enum Kind {
    CSV,
    JSON_LINES
  }

  /** Opens the bytes; called each time they are read. */
  @FunctionalInterface
  public interface Opening {
    InputStream open() throws IOException;
  }

  public OutsideFile(Path path, Kind kind) {
    this(path.toString(), kind, () -> Files.newInputStream(path), () -> size(path));
  }

  /**
   * Bytes that are not in a file.
   *
   * @param name the name in messages
   */
  public OutsideFile(String name, Kind kind, Opening opening) {
    this(name, kind, opening, OptionalLong::empty);
  }

  private OutsideFile(String name, Kind kind, Opening opening, Supplier<OptionalLong> size) {
    this.name = name;
    this.kind = kind;
    this.opening = opening;
    this.size = size;
  }

  /** Bytes of a regular file; others, such as pipes, do not tell. */
  private static OptionalLong size(Path path) {
    try {
      return Files.isRegularFile(path) ? OptionalLong.of(Files.size(path)) : OptionalLong.empty();
    } catch (IOException e) {
      return OptionalLong.empty(); // reading it says why
    }
  }

  /**
   * A file whose format follows from its extension.
   *
   * @throws InvalidInputException when it does not
   */
  public static OutsideFile of(Path path) {
    String name = path.getFileName().toString().toLowerCase(Locale.ROOT);
    if (name.endsWith(".csv")) {
      return new OutsideFile(path, Kind.CSV);
    }
    if (name.endsWith(".jsonl") || name.endsWith(".ndjson") || name.endsWith(".json")) {
      return new OutsideFile(path, Kind.JSON_LINES);
    }
    throw new InvalidInputException(
        "The file type of %s is unknown. Use the extension .csv or .jsonl, or name the type."
            .formatted(path));
  }

  /** Reads all rows into a sink; see {@link #read(Schema, RowSink, ProgressMonitor)}. */
  public void read(Schema schema, RowSink target) {
    read(schema, target, ProgressMonitor.NONE);
  }

  /**
   * Reads all rows into a sink.
   *
   * @param monitor is told how many bytes of the file are read
   * @throws InvalidInputException naming file, line and column of what is wrong
   * @throws org.ysteron.error.CancelledException when the monitor cancels it
   */
  public void read(Schema schema, RowSink target, ProgressMonitor monitor) {
    open(
        monitor,
        text -> {
          if (kind == Kind.CSV) {
            readCsv(schema, text, target);
          } else {
            readJson(schema, text, target);
          }
        });
  }

  /** Reads all rows into a sink; see {@link #readNamed(RowSink, ProgressMonitor)}. */
  public void readNamed(RowSink target) {
    readNamed(target, ProgressMonitor.NONE);
  }

  /**
   * Reads all rows by name into a sink, which decides about columns that the table does not have.
   *
   * @param monitor is told how many bytes of the file are read
   * @throws InvalidInputException naming file, line and what is wrong
   * @throws org.ysteron.error.CancelledException when the monitor cancels it
   */
  public void readNamed(RowSink target, ProgressMonitor monitor) {
    open(
        monitor,
        text -> {
          if (kind == Kind.CSV) {
            namedCsv(text, target);
          } else {
            namedJson(text, target);
          }
        });
  }

  private void add(long line, Runnable row) {
    try {
      row.run();
    } catch (RejectedRowException e) {
      throw wrong(line, ended(e.what()), e);
    } catch (InvalidInputException e) {
      throw wrong(line, ended(e.getMessage()), e);
    }
  }

  private void namedCsv(Reader text, RowSink target) throws IOException {
    List<String> names = new ArrayList<>();
    eachRecord(
        text,
        record -> {
          if (names.isEmpty()) {
            names.addAll(record.getFields());
            if (new HashSet<>(names).size() < names.size()) {
              throw wrong(
                  1, "the header names a column twice: " + NearNames.list(names) + ".", null);
            }
            return;
          }
          String[] values = new String[names.size()];
          for (int i = 0; i < values.length; i++) {
            values[i] = field(record, i);
          }
          add(record.getStartingLineNumber(), () -> target.addText(new TextRow(names, values)));
        });
  }

  private void namedJson(Reader text, RowSink target) throws IOException {
    JsonRows.read(
        text,
        (line, members) -> {
          add(line, () -> target.addObject(members));
          return true;
        },
        this::wrong);
  }

  /** The file's format. */
  public Kind kind() {
    return kind;
  }

  /** The names of the file's columns: for CSV from the header, for JSON from the first object. */
  public List<String> columns() {
    List<String> names = new ArrayList<>();
    open(
        ProgressMonitor.NONE,
        text -> names.addAll(kind == Kind.CSV ? header(text) : members(text)));
    return names;
  }

  private static List<String> header(Reader text) throws IOException {
    try (CsvReader<CsvRecord> csv = csv(text)) {
      for (CsvRecord record : csv) {
        if (!isEmpty(record)) {
          List<String> names = new ArrayList<>(record.getFields());
          return names;
        }
      }
      return List.of();
    } catch (CsvParseException | java.io.UncheckedIOException e) {
      return List.of(); // reading the rows will say what is wrong
    }
  }

  private static CsvReader<CsvRecord> csv(Reader text) {
    FieldModifier quotedOnes =
        new FieldModifier() {
          @Override
          public String modify(long line, int index, boolean quoted, String field) {
            return quoted && field.isEmpty() ? QUOTED : field;
          }
        };
    return CsvReader.builder()
        .skipEmptyLines(false) // which are rows where there is one column
        .build(CsvRecordHandler.of(handler -> handler.fieldModifier(quotedOnes)), text);
  }

  private static boolean isEmpty(CsvRecord record) {
    return record.getFieldCount() == 0 || (record.getFieldCount() == 1 && field(record, 0) == null);
  }

  /** The text of a field; null for an empty one that has no quotes. */
  @SuppressWarnings({"ReferenceEquality", "StringEquality"})
  private static @Nullable String field(CsvRecord record, int index) {
    String field = index < record.getFieldCount() ? record.getField(index) : "";
    return field.isEmpty() && field != QUOTED ? null : field;
  }

  private List<String> members(Reader text) throws IOException {
    List<String> names = new ArrayList<>();
    try {
      JsonRows.read(
          text,
          (line, members) -> {
            names.addAll(members.keySet());
            return false;
          },
          this::wrong);
    } catch (InvalidInputException e) {
      return List.of(); // reading the rows will say what is wrong
    }
    return names;
  }

  /** Reads text, or throws. */
  @FunctionalInterface
  private interface TextWork {
    void with(BufferedReader text) throws IOException;
  }

  private void open(ProgressMonitor monitor, TextWork work) {
    try (InputStream bytes = new Counted(opening.open(), step(new Watch(monitor)));
        BufferedReader text =
            new BufferedReader(
                new InputStreamReader(
                    bytes,
                    StandardCharsets.UTF_8
                        .newDecoder()
                        .onMalformedInput(CodingErrorAction.REPORT)
                        .onUnmappableCharacter(CodingErrorAction.REPORT)),
                1 << 16)) {
      text.mark(1);
      if (text.read() != BYTE_ORDER_MARK) {
        text.reset();
      }
      work.with(text);
    } catch (NoSuchFileException e) {
      throw new InvalidInputException("File not found: " + name + ".", e);
    } catch (CharacterCodingException e) {
      throw new InvalidInputException(
          "%s is not valid UTF-8. Nothing was changed.".formatted(name), e);
    } catch (IOException e) {
      throw new InvalidInputException(
          "%s could not be read: %s. Nothing was changed.".formatted(name, e.getMessage()), e);
    }
  }

  private Watch.Step step(Watch watch) {
    OptionalLong total = size.get();
    String what = "read " + name;
    return total.isPresent()
        ? watch.step(what, Progress.Unit.BYTES, total.getAsLong())
        : watch.step(what, Progress.Unit.BYTES);
  }

  private InvalidInputException wrong(long line, String what, @Nullable Throwable cause) {
    return new InvalidInputException(
        "%s, line %d: %s Nothing was changed.".formatted(name, line, what), cause);
  }

  private void readCsv(Schema schema, Reader text, RowSink target) throws IOException {
    int[][] columns = new int[1][];
    eachRecord(
        text,
        record -> {
          if (columns[0] == null) {
            columns[0] = header(schema, record);
          } else {
            target.add(csvRow(schema, columns[0], record));
          }
        });
  }

  /** All records, the header first. */
  private void eachRecord(Reader text, java.util.function.Consumer<CsvRecord> each)
      throws IOException {
    long line = 1;
    boolean empty = true;
    QuoteCounter quotes = new QuoteCounter(text);
    int columns = 0;
    try (CsvReader<CsvRecord> csv = csv(quotes)) {
      for (CsvRecord record : csv) {
        line = record.getStartingLineNumber();
        if (columns != 1 && isEmpty(record)) {
          continue;
        }
        columns = empty ? record.getFieldCount() : columns;
        empty = false;
        each.accept(record);
      }
      if (quotes.isOdd()) {
        throw wrong(line, "the CSV is broken: a quote is opened and never closed.", null);
      }
      if (empty) {
        throw wrong(1, "the file is empty; a header with column names was expected.", null);
      }
    } catch (CsvParseException e) {
      if (e.getCause() instanceof CancelledException cancelled) {
        throw cancelled;
      }
      throw wrong(line + 1, reason(e), e);
    } catch (java.io.UncheckedIOException e) {
      throw e.getCause();
    }
  }

  private static String reason(CsvParseException e) {
    Throwable cause = e.getCause() == null ? e : e.getCause();
    String message = String.valueOf(cause.getMessage());
    return "the CSV is broken: " + message + (message.endsWith(".") ? "" : ".");
  }

  private int[] header(Schema schema, CsvRecord record) {
    List<String> names = record.getFields();
    int[] columns = new int[names.size()];
    List<String> unknown = new ArrayList<>();
    Set<String> seen = new HashSet<>();
    for (int i = 0; i < columns.length; i++) {
      String name = names.get(i);
      columns[i] = schema.indexOf(name);
      if (columns[i] < 0) {
        unknown.add(name);
      }
      if (!seen.add(name)) {
        throw wrong(1, "the header names column " + Values.quote(name) + " twice.", null);
      }
    }
    checkColumns(schema, seen, unknown, 1);
    return columns;
  }

  /** Refuses columns that the table lacks, and lacking ones that need a value. */
  private void checkColumns(Schema schema, Set<String> seen, List<String> unknown, long line) {
    List<String> names = schema.columns().stream().map(Field::name).toList();
    List<String> missing =
        schema.columns().stream()
            .filter(column -> column.required() && !column.hasDefault())
            .map(Field::name)
            .filter(name -> !seen.contains(name))
            .toList();
    List<String> differences = new ArrayList<>();
    if (!unknown.isEmpty()) {
      differences.add(
          "the table has no column %s.%s Its columns are %s."
              .formatted(
                  NearNames.list(unknown),
                  NearNames.didYouMean(unknown.get(0), names),
                  NearNames.list(names)));
    }
    if (!missing.isEmpty()) {
      differences.add(
          "column %s is missing, but it is NOT NULL and has no default."
              .formatted(NearNames.list(missing)));
    }
    if (!differences.isEmpty()) {
      throw wrong(line, String.join(" And ", differences), null);
    }
  }

  private static Object[] defaults(Schema schema) {
    return schema.columns().stream().map(Field::standard).toArray();
  }

  private Object[] csvRow(Schema schema, int[] columns, CsvRecord record) {
    long line = record.getStartingLineNumber();
    Object[] row = defaults(schema);
    for (int i = 0; i < columns.length; i++) {
      Field column = schema.columns().get(columns[i]);
      String text = field(record, i);
      String value = text != null && text.isEmpty() && !hasEmptyValue(column) ? null : text;
      row[columns[i]] =
          checked(
              line,
              column,
              () ->
                  Values.acceptField(
                      value == null ? null : ValueText.parse(value, column.type()), column));
    }
    return row;
  }

  private static boolean hasEmptyValue(Field column) {
    return column.type() instanceof Type.Text || column.type() == Types.BINARY;
  }

  /** A sentence with its end. */
  private static String ended(String sentence) {
    return sentence.endsWith(".") || sentence.endsWith("?") ? sentence : sentence + ".";
  }

  private Object checked(long line, Field column, java.util.function.Supplier<Object> value) {
    try {
      return value.get();
    } catch (InvalidInputException e) {
      throw wrong(
          line,
          "column %s (%s): %s".formatted(column.name(), column.type(), ended(e.getMessage())),
          e);
    }
  }

  private void readJson(Schema schema, Reader text, RowSink target) throws IOException {
    Object[] standard = defaults(schema);
    JsonRows.read(
        text,
        (line, members) -> {
          target.add(jsonRow(schema, members, line, Arrays.copyOf(standard, standard.length)));
          return true;
        },
        this::wrong);
  }

  private Object[] jsonRow(Schema schema, Map<?, ?> object, long line, Object[] row) {
    Set<String> seen = new HashSet<>();
    List<String> unknown = new ArrayList<>();
    for (Map.Entry<?, ?> member : object.entrySet()) {
      String name = (String) member.getKey();
      seen.add(name);
      int at = schema.indexOf(name);
      if (at < 0) {
        unknown.add(name);
        continue;
      }
      Field column = schema.columns().get(at);
      Type type = column.type();
      Object value = member.getValue();
      row[at] =
          checked(
              line,
              column,
              () -> Values.acceptField(value == null ? null : Json.fromJson(value, type), column));
    }
    checkColumns(schema, seen, unknown, line);
    return row;
  }

  /** Tells whether quotes come in pairs, which the library does not mind at the end of the file. */
  private static final class QuoteCounter extends FilterReader {
    private long quotes;

    QuoteCounter(Reader in) {
      super(in);
    }

    boolean isOdd() {
      return quotes % 2 == 1;
    }

    @Override
    public int read(char[] target, int start, int length) throws IOException {
      int read = super.read(target, start, length);
      for (int i = start; i < start + read; i++) {
        quotes += target[i] == '"' ? 1 : 0;
      }
      return read;
    }
  }

  /** Counts bytes and tells. */
  private static final class Counted extends FilterInputStream {
    private final Watch.Step step;

    Counted(InputStream in, Watch.Step step) {
      super(in);
      this.step = step;
    }

    @Override
    public int read() throws IOException {
      int b = super.read();
      step.add(b < 0 ? 0 : 1);
      return b;
    }

    @Override
    public int read(byte[] target, int start, int length) throws IOException {
      int read = super.read(target, start, length);
      step.add(Math.max(0, read));
      return read;
    }
  }
}
