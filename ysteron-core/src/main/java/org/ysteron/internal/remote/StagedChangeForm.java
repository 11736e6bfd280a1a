package org.ysteron.internal.remote;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.regex.Pattern;
import org.roaringbitmap.RoaringBitmap;
import org.ysteron.data.Schema;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.bytes.Sha256;
import org.ysteron.internal.json.ConditionJson;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.json.SchemaJson;

/**
 * What is to be done to tables of a lake as of an entry, in a form that goes to other machines.
 * Immutable.
 *
 * @param entry the number of the entry
 * @param hash its hash
 * @param tables what is done to each table, by its id
 * @param word what it is in the history; empty for the usual one
 * @param writer the named writer that it is a number of
 */
public record StagedChangeForm(
    long entry, String hash, Map<UUID, OnTable> tables, String word, Optional<Writer> writer) {
  static final String KIND = "delta";
  private static final Pattern WORDS = Pattern.compile("[a-z]{1,20}( [a-z]{1,20}){0,3}");

  /**
   * Of those that have removals by condition, a word or a writer, of which form 1 knows nothing.
   */
  static final int LATER_FORM = 2;

  /**
   * What is done to one table.
   *
   * @param removed conditions by which rows go
   */
  public record OnTable(
      List<StagedForm> staged, List<Removal> removals, List<Seen> removed, List<Seen> reads) {
    static final OnTable NOTHING = new OnTable(List.of(), List.of(), List.of(), List.of());
  }

  /** A number of a session of a named writer of a table. */
  public record Writer(UUID table, String name, long session, long number) {
    public Writer {
      if (session < 1 || number < 0) {
        throw new InvalidInputException(
            "Session %d of writer %s has number %d. Sessions count from 1, as openWriter tells them, and numbers from 0; nothing was changed."
                .formatted(session, name, number));
      }
    }
  }

  public StagedChangeForm {
    if (!word.isEmpty() && !WORDS.matcher(word).matches()) {
      throw new InvalidInputException(
          "The operation of a staged change is up to four words of lower-case letters, such as merge, not '%s'. Nothing was changed."
              .formatted(word));
    }
  }

  /** Of nothing yet. */
  public static StagedChangeForm on(long entry, String hash) {
    return new StagedChangeForm(entry, hash, Map.of(), "", Optional.empty());
  }

  /**
   * Rows of a data file that go.
   *
   * @param key the file's key in its table's tree
   * @param rows their positions
   */
  @SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
  public record Removal(byte[] key, RoaringBitmap rows) {}

  /** A condition by which rows were read, by the names of some columns. */
  public record Seen(Condition condition, Schema schema) {}

  /** The same with something more for a table. */
  public StagedChangeForm with(UUID table, OnTable more) {
    OnTable before = tables.getOrDefault(table, OnTable.NOTHING);
    Map<UUID, OnTable> all = new LinkedHashMap<>(tables);
    all.put(
        table,
        new OnTable(
            both(before.staged, more.staged),
            both(before.removals, more.removals),
            both(before.removed, more.removed),
            both(before.reads, more.reads)));
    return new StagedChangeForm(entry, hash, all, word, writer);
  }

  /** The same under another word. */
  public StagedChangeForm as(String other) {
    return new StagedChangeForm(entry, hash, tables, other, writer);
  }

  /** The same as a number of a named writer. */
  public StagedChangeForm by(Writer other) {
    return new StagedChangeForm(entry, hash, tables, word, Optional.of(other));
  }

  private boolean isLater() {
    return !word.isEmpty()
        || writer.isPresent()
        || tables.values().stream().anyMatch(part -> !part.removed.isEmpty());
  }

  private static <T> List<T> both(List<T> one, List<T> other) {
    List<T> all = new ArrayList<>(one);
    all.addAll(other);
    return all;
  }

  /**
   * Its id, which is made of its bytes: a UUID of version 8 (RFC 9562) of the first bytes of their
   * SHA-256.
   */
  public UUID id() {
    ByteBuffer hash = ByteBuffer.wrap(Sha256.of(toBytes()));
    long high = (hash.getLong() & ~0xF000L) | 0x8000L;
    long low = (hash.getLong() & ~(0xC0L << 56)) | (0x80L << 56);
    return new UUID(high, low);
  }

  /** As bytes, which {@link #of} reads. */
  public byte[] toBytes() {
    Map<String, Object> json = Envelope.of(KIND);
    if (isLater()) {
      json.put("form", LATER_FORM);
    }
    json.put("entry", entry);
    json.put("hash", hash);
    if (!word.isEmpty()) {
      json.put("operation", word);
    }
    writer.ifPresent(by -> json.put("writer", toJson(by)));
    List<Object> parts = new ArrayList<>();
    tables.forEach((id, part) -> parts.add(toJson(id, part)));
    json.put("tables", parts);
    return Envelope.write(json);
  }

  private static Map<String, Object> toJson(Writer by) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("table", by.table.toString());
    json.put("name", by.name);
    json.put("session", by.session);
    json.put("number", by.number);
    return json;
  }

  private static Map<String, Object> toJson(UUID id, OnTable part) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("table", id.toString());
    json.put("staged", part.staged.stream().map(s -> Envelope.text(s.toBytes())).toList());
    List<Object> removals = new ArrayList<>();
    for (Removal removal : part.removals) {
      Map<String, Object> one = new LinkedHashMap<>();
      one.put("key", Envelope.text(removal.key));
      one.put("rows", Envelope.positions(removal.rows));
      removals.add(one);
    }
    json.put("removals", removals);
    if (!part.removed.isEmpty()) {
      json.put("removed", toJson(part.removed));
    }
    json.put("reads", toJson(part.reads));
    return json;
  }

  private static List<Object> toJson(List<Seen> conditions) {
    List<Object> list = new ArrayList<>();
    for (Seen seen : conditions) {
      Map<String, Object> one = new LinkedHashMap<>();
      one.put("schema", SchemaJson.toJson(seen.schema));
      one.put("condition", ConditionJson.toJson(seen.condition, seen.schema));
      list.add(one);
    }
    return list;
  }

  /**
   * Reads a staged change.
   *
   * @throws InvalidInputException when the bytes are none
   */
  public static StagedChangeForm of(byte[] bytes) {
    JsonObject json = Envelope.read(bytes, KIND, LATER_FORM);
    try {
      StagedChangeForm stagedChange = on(json.number("entry"), json.text("hash"));
      if (json.has("operation")) {
        stagedChange = stagedChange.as(json.text("operation"));
      }
      if (json.has("writer")) {
        JsonObject by = json.object("writer");
        stagedChange =
            stagedChange.by(
                new Writer(
                    by.uuid("table"), by.text("name"), by.number("session"), by.number("number")));
      }
      for (JsonObject table : json.objects("tables")) {
        stagedChange = stagedChange.with(table.uuid("table"), part(table));
      }
      return stagedChange;
    } catch (RuntimeException e) {
      throw Envelope.wrong(KIND, e);
    }
  }

  private static OnTable part(JsonObject json) {
    List<StagedForm> staged = new ArrayList<>();
    for (Object text : json.list("staged")) {
      staged.add(StagedForm.of(Envelope.bytes((String) text, KIND)));
    }
    List<Removal> removals = new ArrayList<>();
    for (JsonObject one : json.objects("removals")) {
      removals.add(
          new Removal(
              Envelope.bytes(one.text("key"), KIND), Envelope.positions(one.text("rows"), KIND)));
    }
    List<Seen> removed = json.has("removed") ? conditions(json, "removed") : List.of();
    return new OnTable(staged, removals, removed, conditions(json, "reads"));
  }

  private static List<Seen> conditions(JsonObject json, String member) {
    List<Seen> conditions = new ArrayList<>();
    for (JsonObject one : json.objects(member)) {
      Schema schema = SchemaJson.fromJson(one.object("schema").members());
      conditions.add(
          new Seen(ConditionJson.fromJson(one.object("condition").members(), schema), schema));
    }
    return conditions;
  }
}
