package org.ysteron.change;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.util.HexFormat;
import org.ysteron.data.Batch;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.data.Sha256;
import org.ysteron.data.Values;
import org.ysteron.data.Vector;

/**
 * A SHA-256 of rows, whatever batches they come in: of the digests of the columns, each of its
 * values in order, with their lengths. For one thread.
 */
final class RowDigest {
  private final MessageDigest[] columns;

  RowDigest(Schema schema) {
    columns = new MessageDigest[schema.columns().size()];
    for (int c = 0; c < columns.length; c++) {
      columns[c] = Sha256.digest();
    }
  }

  void add(Batch batch) {
    for (int c = 0; c < columns.length; c++) {
      Vector vector = batch.vectors().get(c);
      for (int i = 0; i < batch.size(); i++) {
        byte[] value = vector.isNull(i) ? null : bytes(vector.present(i), vector);
        int length = value == null ? -1 : value.length;
        columns[c].update(ByteBuffer.allocate(Integer.BYTES).putInt(length).array());
        if (value != null) {
          columns[c].update(value);
        }
      }
    }
  }

  private static byte[] bytes(Object value, Vector vector) {
    return switch (vector.type().physical()) {
      case BYTES -> Values.toBytes(value, vector.type());
      case NESTED -> Json.write(Json.toJson(value, vector.type())).getBytes(StandardCharsets.UTF_8);
      default -> value.toString().getBytes(StandardCharsets.UTF_8);
    };
  }

  String toText() {
    MessageDigest all = Sha256.digest();
    for (MessageDigest column : columns) {
      all.update(column.digest());
    }
    return HexFormat.of().formatHex(all.digest());
  }
}
