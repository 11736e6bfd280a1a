package org.ysteron.jdbc;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.sql.DriverPropertyInfo;
import java.sql.SQLException;
import java.time.DateTimeException;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Properties;
import org.jspecify.annotations.Nullable;
import org.ysteron.internal.text.NearNames;
import org.ysteron.option.Isolation;

/**
 * What an address and the properties of a connection say. Properties count more than the address.
 *
 * @param location the directory of the lake
 * @param url the address as it was given
 * @param zone of times that Java clients see with an offset; UTC by default
 * @param author of commits; the account that runs the process by default
 * @param isolation of transactions; serializable by default
 * @param asOf a point to read the lake at: a time, or an expression such as {@code
 *     lake.bookmark('spring')}
 * @param readOnly whether statements that change something are refused
 * @param memory bytes that joins, groups and sorts of a query take together
 * @param schema the namespace of tables whose names are given alone
 */
record ConnectionSettings(
    String location,
    String url,
    ZoneId zone,
    Optional<String> author,
    Isolation isolation,
    Optional<String> asOf,
    boolean readOnly,
    OptionalLong memory,
    Optional<String> schema) {
  static final String PREFIX = "jdbc:ysteron:";

  private static final Map<String, String> KNOWN = new LinkedHashMap<>();

  static {
    KNOWN.put("zone", "Time zone of times with an offset, such as Europe/Oslo (default: UTC).");
    KNOWN.put("author", "Author of commits (default: the account of the process; also: user).");
    KNOWN.put("isolation", "serializable or snapshot (default: serializable).");
    KNOWN.put("as-of", "Read the lake at a time, or at lake.bookmark('name') or lake.entry(n).");
    KNOWN.put("read-only", "true to refuse statements that change something (default: false).");
    KNOWN.put(
        "memory", "MiB for joins, groups and sorts of a query (default: a quarter of the heap).");
    KNOWN.put("schema", "Namespace of tables whose names are given alone.");
  }

  /** Reads an address and properties. */
  static ConnectionSettings of(String url, Properties info) throws SQLException {
    String rest = url.substring(PREFIX.length());
    int query = rest.indexOf('?');
    String location = decoded(query < 0 ? rest : rest.substring(0, query));
    if (location.isBlank()) {
      throw wrong("The address %s names no lake. Write %sDIRECTORY.".formatted(url, PREFIX));
    }
    Map<String, String> given = new LinkedHashMap<>();
    if (query >= 0) {
      for (String part : rest.substring(query + 1).split("[&;]", -1)) {
        int at = part.indexOf('=');
        if (!part.isBlank()) {
          given.put(
              decoded(at < 0 ? part : part.substring(0, at)),
              at < 0 ? "true" : decoded(part.substring(at + 1)));
        }
      }
    }
    for (String name : given.keySet()) {
      if (!KNOWN.containsKey(name)) {
        throw wrong(
            "There is no connection property %s.%s"
                .formatted(name, NearNames.didYouMean(name, List.copyOf(KNOWN.keySet()))));
      }
    }
    for (String name : KNOWN.keySet()) {
      String value = info.getProperty(name);
      if (value != null) {
        given.put(name, value);
      }
    }
    String user = info.getProperty("user");
    String author = given.getOrDefault("author", user == null ? "" : user);
    return new ConnectionSettings(
        location,
        url,
        zone(given.getOrDefault("zone", "UTC")),
        author.isEmpty() ? Optional.empty() : Optional.of(author),
        isolation(given.getOrDefault("isolation", "serializable")),
        Optional.ofNullable(given.get("as-of")),
        truth(given.getOrDefault("read-only", "false")),
        memory(given.get("memory")),
        Optional.ofNullable(given.get("schema")));
  }

  private static String decoded(String text) throws SQLException {
    try {
      // A plus sign in a path is one; in forms it would be a blank.
      return URLDecoder.decode(text.replace("+", "%2B"), StandardCharsets.UTF_8);
    } catch (IllegalArgumentException e) {
      throw wrong("\"%s\" in the address is wrongly encoded: %s.".formatted(text, e.getMessage()));
    }
  }

  private static SQLException wrong(String what) {
    return SqlErrors.of(SqlErrors.WRONG_CONNECTION, what);
  }

  private static ZoneId zone(String name) throws SQLException {
    try {
      return ZoneId.of(name);
    } catch (DateTimeException e) {
      throw wrong("The connection property zone is no time zone: %s.".formatted(name));
    }
  }

  private static Isolation isolation(String name) throws SQLException {
    return switch (name.toLowerCase(Locale.ROOT)) {
      case "serializable" -> Isolation.SERIALIZABLE;
      case "snapshot" -> Isolation.SNAPSHOT;
      default ->
          throw wrong(
              "The connection property isolation is serializable or snapshot, not %s."
                  .formatted(name));
    };
  }

  private static boolean truth(String text) throws SQLException {
    return switch (text.toLowerCase(Locale.ROOT)) {
      case "true" -> true;
      case "false" -> false;
      default ->
          throw wrong(
              "The connection property read-only is true or false, not %s.".formatted(text));
    };
  }

  private static OptionalLong memory(@Nullable String text) throws SQLException {
    try {
      return text == null ? OptionalLong.empty() : OptionalLong.of(bytes(text));
    } catch (NumberFormatException | ArithmeticException e) {
      throw wrong("The connection property memory is a number of MiB, not %s.".formatted(text));
    }
  }

  private static long bytes(String text) {
    long mebibytes = Long.parseLong(text);
    if (mebibytes < 1) {
      throw new NumberFormatException(text);
    }
    return Math.multiplyExact(mebibytes, 1L << 20);
  }

  /** The statement that sets the point that is read, if there is one. */
  Optional<String> setPoint() {
    return asOf.map(
        point ->
            "SET SYSTEM_TIME TO "
                + (point.startsWith("lake.")
                    ? point
                    : "TIMESTAMP '%s'".formatted(point.replace('T', ' '))));
  }

  /** The properties, for clients that ask their user. */
  static DriverPropertyInfo[] described(String url, Properties info) {
    List<DriverPropertyInfo> all = new ArrayList<>();
    KNOWN.forEach(
        (name, what) -> {
          DriverPropertyInfo one = new DriverPropertyInfo(name, info.getProperty(name));
          one.description = what;
          all.add(one);
        });
    return all.toArray(DriverPropertyInfo[]::new);
  }
}
