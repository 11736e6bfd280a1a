package org.ysteron.internal.commit;

import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.tree.PageHome;
import org.ysteron.internal.tree.PagePlace;
import org.ysteron.internal.tree.PageRef;
import org.ysteron.report.CommitStamp;

/** Reads the lines behind the first. */
record EntryHeadParser(JsonObject first, long number, long objectLength) {
  EntryHead parse(List<JsonObject> lines, EntryHead.Sum sum) {
    Instant time = time();
    List<EntryHead.CommitLines> commits = new ArrayList<>();
    JsonObject last = null;
    for (JsonObject line : lines) {
      switch (line.kind()) {
        case EntryHead.COMMIT -> commits.add(commit(line, commits.size(), time));
        case EntryHead.TABLE -> {
          if (commits.isEmpty()) {
            throw new DamagedException("a table is listed before the first commit.");
          }
          EntryHead.CommitLines of = commits.remove(commits.size() - 1);
          List<EntryHead.TableLine> tables = new ArrayList<>(of.tables());
          tables.add(EntryHead.TableLine.fromJson(line));
          commits.add(new EntryHead.CommitLines(of.stamp(), of.labels(), tables));
        }
        case EntryHead.PAGES -> last = line;
        default -> {} // a later program's
      }
    }
    if (commits.isEmpty() || last == null) {
      throw new DamagedException("it contains no commit or no lake page.");
    }
    if (first.number("number") != number
        || last.number(EntryHead.PAGES) != objectLength - sum.length()) {
      throw new DamagedException(
          "it states number %d and %d bytes of pages, but it is number %d with %d bytes."
              .formatted(
                  first.number("number"),
                  last.number(EntryHead.PAGES),
                  number,
                  objectLength - sum.length()));
    }
    PagePlace end = new PagePlace(PageHome.entry(number), objectLength);
    return new EntryHead(
        first.uuid("lake"),
        number,
        time,
        first.number("start"),
        first.text("parent"),
        EntryHead.texts(first, EntryHead.READERS),
        EntryHead.texts(first, EntryHead.WRITERS),
        commits,
        PageRef.parse(last.text("lake page"), end),
        sum);
  }

  private Instant time() {
    try {
      return Instant.parse(first.text("time"));
    } catch (DateTimeParseException e) {
      throw new DamagedException("its time cannot be read.", e);
    }
  }

  private EntryHead.CommitLines commit(JsonObject line, int place, Instant time) {
    Map<String, String> labels = new LinkedHashMap<>();
    if (line.has(EntryHead.LABELS)) {
      line.object(EntryHead.LABELS).members().forEach((k, v) -> labels.put((String) k, (String) v));
    }
    return new EntryHead.CommitLines(
        new CommitStamp(
            number,
            first.number("first commit") + place,
            line.uuid(EntryHead.COMMIT),
            time,
            line.text("author"),
            line.text("program"),
            line.text("note"),
            line.text("statement")),
        labels,
        List.of());
  }
}
