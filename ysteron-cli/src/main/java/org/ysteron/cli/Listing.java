package org.ysteron.cli;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import de.siegmar.fastcsv.writer.QuoteStrategies;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Row;
import org.ysteron.data.Type;
import org.ysteron.internal.text.Decimals;
import org.ysteron.internal.text.Visible;
import picocli.CommandLine.Help.Ansi;
import picocli.CommandLine.Option;

/**
 * Prints rows: aligned for people, or as JSON or CSV for programs. What is listed of a lake itself
 * has names in snake_case there, and values of their own kind in JSON.
 */
final class Listing {
  private static final int SAMPLE = 500;
  private static final int WIDEST = 60;
  private static final int WIDEST_LAST = 100;
  private static final int NARROWEST_LAST = 20;
  private static final Set<String> COUNTS =
      Set.of(
          "rows",
          "files",
          "masked",
          "nulls",
          "distinct",
          "versions",
          "kept",
          "groups",
          "added",
          "removed",
          "inserted",
          "deleted",
          "updated",
          "to null",
          "from null",
          "all",
          "skipped",
          "left",
          "objects");

  /** How a listing is printed. */
  enum Format {
    TEXT,
    JSON,
    CSV
  }

  /** The option of every command that lists. */
  static final class Options {
    @Option(
        names = "--format",
        paramLabel = "FORMAT",
        defaultValue = "text",
        description = "Output format: text, json or csv (default: text).")
    private Format format;

    /** For people, whatever was asked for. */
    static Options ofText() {
      Options options = new Options();
      options.format = Format.TEXT;
      return options;
    }

    /** The format of a word; empty when there is none. */
    static Optional<Options> of(String word) {
      return Stream.of(Format.values())
          .filter(known -> known.name().equalsIgnoreCase(word))
          .findFirst()
          .map(
              known -> {
                Options options = new Options();
                options.format = known;
                return options;
              });
    }

    boolean isJson() {
      return format == Format.JSON;
    }

    Listing listing(PrintWriter out, String... columns) {
      return listing(out, List.of(columns));
    }

    Listing listing(PrintWriter out, List<String> columns) {
      List<String> names =
          isText() ? columns : columns.stream().map(Listing::nameForPrograms).toList();
      return new Listing(out, format, names, List.of());
    }

    /** A listing of rows of these columns; in JSON and CSV it can be loaded again. */
    Listing rows(PrintWriter out, List<Field> columns) {
      return new Listing(
          out,
          format,
          columns.stream().map(Field::name).toList(),
          columns.stream().map(Field::type).toList());
    }

    boolean isText() {
      return format == Format.TEXT;
    }
  }

  private final PrintWriter out;
  private final Format format;
  private final List<String> columns;
  private final List<Type> types;
  private final List<String[]> pending = new ArrayList<>();
  private final boolean[] numeric;
  private int[] widths;
  private long rows;
  private CsvWriter csv;

  private static String nameForPrograms(String column) {
    return column.replace(' ', '_');
  }

  private Listing(PrintWriter out, Format format, List<String> columns, List<Type> types) {
    this.types = types;
    this.out = out;
    this.format = format;
    this.columns = columns;
    this.numeric = new boolean[columns.size()];
    Arrays.fill(numeric, true);
  }

  /** Prints one row; values may be null. */
  void row(Object... values) {
    switch (format) {
      case TEXT -> textRow(values);
      case JSON -> jsonRow(values);
      case CSV -> csvRow(values);
    }
    rows++;
  }

  /** Prints what is left. */
  void end() {
    switch (format) {
      case TEXT -> flush();
      case JSON -> out.println(rows == 0 ? "[]" : "\n]");
      case CSV -> {
        if (rows == 0) {
          csv().writeRecord(columns);
        }
        flushCsv();
      }
    }
  }

  private void flushCsv() {
    try {
      csv().flush();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private void textRow(Object[] values) {
    String[] cells = new String[values.length];
    for (int i = 0; i < values.length; i++) {
      cells[i] = forPeople(values[i], columns.get(i));
      numeric[i] &= values[i] == null || values[i] instanceof Number;
    }
    if (widths != null) {
      print(cells);
      return;
    }
    pending.add(cells);
    if (pending.size() == SAMPLE) {
      flush();
    }
  }

  /** In a listing of the lake sizes have a unit and counts separators; a table's rows stay. */
  private String forPeople(Object value, String column) {
    if (!types.isEmpty() || !(value instanceof Long || value instanceof Integer)) {
      return text(value);
    }
    long number = ((Number) value).longValue();
    if (column.equals("bytes") || column.endsWith(" bytes")) {
      return bytes(number);
    }
    return COUNTS.contains(column) ? number(number) : text(value);
  }

  private void flush() {
    if (widths != null) {
      return;
    }
    widths = new int[columns.size()];
    for (int i = 0; i < widths.length; i++) {
      widths[i] = columns.get(i).length();
      for (String[] cells : pending) {
        widths[i] = Math.max(widths[i], Math.min(WIDEST, cells[i].length()));
      }
    }
    String head = line(columns.stream().map(Visible::of).toArray(String[]::new));
    out.println(Ansi.AUTO.enabled() ? Ansi.AUTO.string("@|bold " + head + "|@") : head);
    pending.forEach(this::print);
    pending.clear();
  }

  private void print(String[] cells) {
    out.println(line(cells));
  }

  private String line(String[] cells) {
    StringBuilder line = new StringBuilder();
    for (int i = 0; i < cells.length; i++) {
      boolean last = i == cells.length - 1;
      int widest = last ? widestLast(line.length() + 2) : WIDEST;
      String cell = cells[i].length() > widest ? cells[i].substring(0, widest - 1) + "…" : cells[i];
      String pad = " ".repeat(Math.max(0, widths[i] - cell.length()));
      line.append(i > 0 ? "  " : "");
      line.append(numeric[i] ? pad + cell : cell + (last ? "" : pad));
    }
    return line.toString();
  }

  /** So much of the last column is shown that a line is not wider than the terminal. */
  private int widestLast(int used) {
    int width = out instanceof Output output ? output.width() : Integer.MAX_VALUE;
    return Math.max(NARROWEST_LAST, Math.min(WIDEST_LAST, width - used));
  }

  private void jsonRow(Object[] values) {
    Map<String, Object> object = new LinkedHashMap<>();
    for (int i = 0; i < values.length; i++) {
      object.put(
          columns.get(i),
          types.isEmpty() ? plain(values[i]) : Json.toJson(values[i], types.get(i)));
    }
    out.print(rows == 0 ? "[\n  " : ",\n  ");
    out.print(Visible.of(Json.write(object))); // in JSON, too, that is how these are written
  }

  private void csvRow(Object[] values) {
    if (rows == 0) {
      csv().writeRecord(columns);
    }
    List<String> cells = new ArrayList<>();
    for (int i = 0; i < values.length; i++) {
      cells.add(values[i] == null ? null : csvCell(values[i], i));
    }
    csv().writeRecord(cells);
  }

  /** As it is loaded again: text as it is, nested values as JSON. */
  private String csvCell(Object value, int column) {
    if (value instanceof String text) {
      return text;
    }
    if (types.isEmpty()) {
      return cell(value);
    }
    Type type = types.get(column);
    return type.isNested() ? Json.write(Json.toJson(value, type)) : cell(value);
  }

  private CsvWriter csv() {
    if (csv == null) {
      csv =
          CsvWriter.builder()
              .lineDelimiter(LineDelimiter.LF)
              .quoteStrategy(QuoteStrategies.EMPTY) // an empty text, apart from null
              .build(out instanceof Output output ? output.forData() : out);
    }
    return csv;
  }

  /** A value as text; nested ones as JSON. */
  static String text(Object value) {
    return value == null ? "–" : Visible.of(cell(value));
  }

  private static String cell(Object value) {
    if (value instanceof BigDecimal number) {
      return Decimals.show(number);
    }
    Object plain = plain(value);
    return plain instanceof Map || plain instanceof List ? Json.write(plain) : "" + plain;
  }

  /** Prints what is no list as one object of JSON. */
  static void object(PrintWriter out, Map<String, Object> members) {
    out.print(Visible.of(Json.write(plain(members)))); // no line of it is to be broken
    out.println();
  }

  /** A value in the form that JSON takes; empty ones are null. */
  private static Object plain(Object value) {
    if (value instanceof Row row) {
      Map<String, Object> object = new LinkedHashMap<>();
      for (int i = 0; i < row.fields().size(); i++) {
        Type type = row.fields().get(i).type();
        object.put(row.fields().get(i).name(), Json.toJson(row.get(i), type));
      }
      return object;
    }
    if (value instanceof List<?> list) {
      List<Object> plain = new ArrayList<>();
      list.forEach(element -> plain.add(plain(element)));
      return plain;
    }
    if (value instanceof Map<?, ?> map) {
      Map<String, Object> object = new LinkedHashMap<>();
      map.forEach((key, mapped) -> object.put(String.valueOf(key), plain(mapped)));
      return object;
    }
    if (value instanceof byte[] bytes) {
      return java.util.HexFormat.of().formatHex(bytes);
    }
    if (value instanceof Optional<?> there) {
      return there.map(Listing::plain).orElse(null);
    }
    boolean finite = !(value instanceof Double number) || Double.isFinite(number);
    return value == null || (value instanceof Number && finite) || value instanceof Boolean
        ? value
        : value.toString();
  }

  /** Bytes for people. */
  static String bytes(long bytes) {
    if (bytes < 1024) {
      return bytes + " B";
    }
    double value = bytes;
    String[] units = {"KiB", "MiB", "GiB", "TiB"};
    int unit = -1;
    while (value >= 1024 && unit < units.length - 1) {
      value /= 1024;
      unit++;
    }
    return String.format(Locale.ROOT, "%.1f %s", value, units[unit]);
  }

  /** Says how many there are when not all of them were listed. */
  static void tellMore(PrintWriter out, long limit, long all, String plural) {
    if (limit < all) {
      out.println("%s of %s %s; --limit lists more.".formatted(number(limit), number(all), plural));
    }
  }

  /** A count, with separators. */
  static String number(long count) {
    return String.format(Locale.ROOT, "%,d", count);
  }

  /** One thing, or several. */
  static String count(long count, String singular, String plural) {
    return number(count) + " " + (count == 1 ? singular : plural);
  }
}
