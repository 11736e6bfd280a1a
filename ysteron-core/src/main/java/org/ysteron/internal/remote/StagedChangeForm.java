package org.ysteron.internal.remote;

import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
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
 */
public record StagedChangeForm(long entry, String hash, Map<UUID, OnTable> tables) {
  static final String KIND = "delta";

  /** What is done to one table. */
  public record OnTable(List<StagedForm> staged, List<Removal> removals, List<Seen> reads) {
    static final OnTable NOTHING = new OnTable(List.of(), List.of(), List.of());
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
            both(before.reads, more.reads)));
    return new StagedChangeForm(entry, hash, all);
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
    json.put("entry", entry);
    json.put("hash", hash);
    List<Object> parts = new ArrayList<>();
    tables.forEach((id, part) -> parts.add(toJson(id, part)));
    json.put("tables", parts);
    return Envelope.write(json);
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
    List<Object> reads = new ArrayList<>();
    for (Seen seen : part.reads) {
      Map<String, Object> one = new LinkedHashMap<>();
      one.put("schema", SchemaJson.toJson(seen.schema));
      one.put("condition", ConditionJson.toJson(seen.condition, seen.schema));
      reads.add(one);
    }
    json.put("reads", reads);
    return json;
  }

  /**
   * Reads a staged change.
   *
   * @throws InvalidInputException when the bytes are none
   */
  public static StagedChangeForm of(byte[] bytes) {
    JsonObject json = Envelope.read(bytes, KIND);
    try {
      StagedChangeForm stagedChange =
          new StagedChangeForm(json.number("entry"), json.text("hash"), Map.of());
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
    List<Seen> reads = new ArrayList<>();
    for (JsonObject one : json.objects("reads")) {
      Schema schema = SchemaJson.fromJson(one.object("schema").members());
      reads.add(
          new Seen(ConditionJson.fromJson(one.object("condition").members(), schema), schema));
    }
    return new OnTable(staged, removals, reads);
  }
}
