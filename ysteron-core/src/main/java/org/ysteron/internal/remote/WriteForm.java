package org.ysteron.internal.remote;

import java.time.Instant;
import java.util.Map;
import java.util.UUID;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.TableSettings;
import org.ysteron.report.CommitStamp;

/**
 * What it takes to write rows for a table, in a form that goes to other machines.
 *
 * @param start the ledger entry from which the writing starts
 * @param now when the task was made, for defaults that read it
 */
public record WriteForm(
    UUID table, String name, long start, Instant now, TableForm form, TableSettings settings) {
  private static final String KIND = "write task";

  /** Of a version of a table as of an entry. */
  public static WriteForm of(VersionPage page, long start, Instant now) {
    return new WriteForm(page.id(), page.name(), start, now, page.form(), page.settings());
  }

  /** A version of the table that has the form, and nothing else. */
  public VersionPage page() {
    CommitStamp none = new CommitStamp(start, start, new UUID(0, 0), Instant.EPOCH, "", "", "", "");
    return VersionPage.create(table, name, form, settings, none);
  }

  /** As bytes, which {@link #of(byte[])} reads. */
  public byte[] toBytes() {
    Map<String, Object> json = Envelope.of(KIND);
    json.put("table", table.toString());
    json.put("name", name);
    json.put("start", start);
    json.put("now", now.toString());
    json.put("schema version", form.schemaVersion());
    json.put("schema", form.schemaJson());
    json.put("layout version", form.layoutVersion());
    json.put("layout", form.layout().toJson());
    json.put("settings", settings.values());
    return Envelope.write(json);
  }

  /**
   * Reads a task.
   *
   * @throws InvalidInputException when the bytes are none
   */
  public static WriteForm of(byte[] bytes) {
    JsonObject json = Envelope.read(bytes, KIND);
    try {
      TableForm form =
          TableForm.fromJson(
              json.object("schema"),
              json.number("schema version"),
              json.object("layout"),
              json.number("layout version"));
      return new WriteForm(
          json.uuid("table"),
          json.text("name"),
          json.number("start"),
          json.has("now") ? json.time("now") : Instant.EPOCH, // older tasks have no such default
          form,
          TableSettings.stored(json.object("settings").members()));
    } catch (RuntimeException e) {
      throw Envelope.wrong(KIND, e);
    }
  }
}
