package org.ysteron.internal.remote;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Condition;
import org.ysteron.internal.column.FieldIds;
import org.ysteron.internal.file.DataFile;
import org.ysteron.internal.file.RowSpan;
import org.ysteron.internal.json.ConditionJson;
import org.ysteron.internal.json.JsonObject;
import org.ysteron.internal.json.SchemaJson;
import org.ysteron.internal.read.FileTask;
import org.ysteron.internal.read.ReadContext;
import org.ysteron.internal.read.ScanPlan;
import org.ysteron.internal.table.VersionPage;

/**
 * One data file of a scan, or some of its rows, in a form that goes to other machines.
 *
 * @param file the file
 * @param columns the columns wanted, by path; none for all
 * @param condition what rows must pass
 * @param firstSerial the serial of the file's first row
 * @param key the key of the file in its table's tree
 */
@SuppressWarnings("ArrayRecordComponent") // handed over once, never compared
public record ScanForm(
    FileTask file, List<String> columns, Condition condition, long firstSerial, byte[] key) {
  private static final String KIND = "scan task";

  /** A planned file of a version. */
  public static ScanForm of(
      VersionPage table,
      ScanPlan.Task task,
      List<String> columns,
      Condition condition,
      ReadContext context) {
    return new ScanForm(
        FileTask.of(task, context.pages()),
        columns,
        condition,
        task.entry().numbers().firstSerial(),
        task.entry().key());
  }

  /** The same, of some of its rows only. */
  public ScanForm among(RowSpan some) {
    return new ScanForm(file.among(some), columns, condition, firstSerial, key);
  }

  /** As bytes, which {@link #of(byte[])} reads. */
  public byte[] toBytes() {
    Map<String, Object> json = Envelope.of(KIND);
    json.put("table", file.table().toString());
    json.put("name", file.name());
    json.put("version", file.version());
    json.put("schema", SchemaJson.toJson(file.schema()));
    Schema schema = file.schema();
    json.put("columns", columns.stream().map(path -> schema.find(path).id()).toList());
    json.put("condition", ConditionJson.toJson(condition, file.schema()));
    json.put("filtered", file.filtered());
    json.put("number", file.number());
    json.put("file", file.file().name());
    json.put("size", file.file().size());
    json.put("rows", file.file().rows());
    json.put("footer length", file.file().footerLength());
    json.put("footer hash", file.file().footerHash());
    json.put("highest id", file.file().ids().highest());
    Map<String, Object> others = new LinkedHashMap<>();
    file.file().ids().others().forEach((inFile, id) -> others.put(inFile.toString(), id));
    json.put("other ids", others);
    json.put("masked", Envelope.positions(file.masked()));
    json.put("first serial", firstSerial);
    json.put("key", Envelope.text(key));
    json.put("from", file.span().from());
    json.put("to", file.span().to());
    return Envelope.write(json);
  }

  /**
   * Reads a task.
   *
   * @throws InvalidInputException when the bytes are none
   */
  public static ScanForm of(byte[] bytes) {
    JsonObject json = Envelope.read(bytes, KIND);
    try {
      Schema schema = SchemaJson.fromJson(json.object("schema").members());
      Map<Integer, Integer> others = new LinkedHashMap<>();
      json.object("other ids")
          .members()
          .forEach((k, v) -> others.put(Integer.valueOf((String) k), ((Number) v).intValue()));
      DataFile data =
          new DataFile(
              json.text("file"),
              json.number("size"),
              json.number("rows"),
              json.number("footer length"),
              json.text("footer hash"),
              new FieldIds(json.number("highest id"), others));
      FileTask file =
          new FileTask(
              json.uuid("table"),
              json.text("name"),
              json.number("version"),
              schema,
              json.number("number"),
              data,
              Envelope.positions(json.text("masked"), KIND),
              json.flag("filtered"),
              span(json, data),
              ScanForm::missing);
      List<String> columns =
          json.list("columns").stream().map(id -> schema.pathOf(((Number) id).intValue())).toList();
      Condition condition = ConditionJson.fromJson(json.object("condition").members(), schema);
      return new ScanForm(
          file,
          columns,
          condition,
          json.number("first serial"),
          Envelope.bytes(json.text("key"), KIND));
    } catch (InvalidInputException e) {
      throw e;
    } catch (RuntimeException e) {
      throw Envelope.wrong(KIND, e);
    }
  }

  /** Who has the store only cannot tell whether the version has expired. */
  private static RuntimeException missing(RuntimeException damage) {
    return new DamagedException(
        damage.getMessage()
            + " If the version of the task has expired meanwhile, plan the scan again.",
        damage);
  }

  private static RowSpan span(JsonObject json, DataFile data) {
    RowSpan span = new RowSpan(json.number("from"), json.number("to"));
    if (span.from() < 0 || span.to() > data.rows() || span.from() > span.to()) {
      throw Envelope.wrong(KIND, null);
    }
    return span;
  }
}
