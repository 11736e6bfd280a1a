package org.ysteron.internal.remote;

import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.table.StagedBytes;
import org.ysteron.internal.table.StagedFile;

/**
 * Staged files of a table in a form that goes to other machines.
 *
 * @param start the ledger entry from which the writing started
 */
public record StagedForm(UUID table, long start, List<StagedFile> files) {
  private static final String KIND = "staged rows";

  public StagedForm {
    files = List.copyOf(files);
  }

  /** As bytes, which {@link #of} reads. */
  public byte[] toBytes() {
    Map<String, Object> json = Envelope.of(KIND);
    json.put("table", table.toString());
    json.put("start", start);
    json.put("files", Envelope.text(StagedBytes.write(files)));
    return Envelope.write(json);
  }

  /**
   * Reads staged files.
   *
   * @throws InvalidInputException when the bytes are none
   */
  public static StagedForm of(byte[] bytes) {
    JsonObject json = Envelope.read(bytes, KIND);
    try {
      return new StagedForm(
          json.uuid("table"),
          json.number("start"),
          StagedBytes.read(Envelope.bytes(json.text("files"), KIND)));
    } catch (RuntimeException e) {
      throw Envelope.wrong(KIND, e);
    }
  }
}
