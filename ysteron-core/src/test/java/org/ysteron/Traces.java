package org.ysteron;

import com.github.luben.zstd.Zstd;
import com.github.luben.zstd.ZstdException;
import com.github.luben.zstd.ZstdInputStreamNoFinalizer;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.function.BiConsumer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.ysteron.store.ObjectStore;

/**
 * Looks for bytes in all objects of a store, in what their parts decompress to, and in what is
 * written in them as hexadecimal digits, as deep as it goes. It knows nothing of the lake's format:
 * a part is whatever begins as a Zstandard frame does (RFC 8878), which pages of data files,
 * dictionaries and sections of metadata are.
 */
final class Traces {
  private static final byte[] MAGIC = {0x28, (byte) 0xb5, 0x2f, (byte) 0xfd};
  private static final Pattern DIGITS = Pattern.compile("(?:[0-9a-f]{2}){8,}");
  private static final int DEEPEST = 4;

  private Traces() {}

  /** In which objects some bytes are. */
  static List<String> of(ObjectStore store, byte[] wanted) {
    List<String> found = new ArrayList<>();
    each(
        store,
        (name, bytes) -> {
          if (indexOf(bytes, wanted, 0) >= 0) {
            found.add(name);
          }
        });
    return found;
  }

  /** In which objects a text is, in UTF-8. */
  static List<String> of(ObjectStore store, String text) {
    return of(store, text.getBytes(StandardCharsets.UTF_8));
  }

  private static void each(ObjectStore store, BiConsumer<String, byte[]> visitor) {
    for (Map.Entry<String, byte[]> object : StoreContents.of(store).entrySet()) {
      each(object.getKey(), object.getValue(), visitor, 0);
    }
  }

  private static void each(
      String name, byte[] bytes, BiConsumer<String, byte[]> visitor, int depth) {
    visitor.accept(name, bytes);
    if (depth == DEEPEST) {
      return;
    }
    for (int at = indexOf(bytes, MAGIC, 0); at >= 0; at = indexOf(bytes, MAGIC, at + 1)) {
      each(name, decompressed(bytes, at), visitor, depth + 1);
    }
    Matcher digits = DIGITS.matcher(new String(bytes, StandardCharsets.ISO_8859_1));
    while (digits.find()) {
      each(name, HexFormat.of().parseHex(digits.group()), visitor, depth + 1);
    }
  }

  /** What can be had of a frame that starts somewhere. */
  private static byte[] decompressed(byte[] bytes, int from) {
    try (ZstdInputStreamNoFinalizer in =
        new ZstdInputStreamNoFinalizer(
            new ByteArrayInputStream(bytes, from, bytes.length - from))) {
      in.setContinuous(true);
      return in.readAllBytes();
    } catch (IOException | ZstdException e) {
      return new byte[0];
    }
  }

  private static int indexOf(byte[] bytes, byte[] wanted, int from) {
    for (int at = from; at <= bytes.length - wanted.length; at++) {
      int i = 0;
      while (i < wanted.length && bytes[at + i] == wanted[i]) {
        i++;
      }
      if (i == wanted.length) {
        return at;
      }
    }
    return -1;
  }

  /** A frame of some bytes, for what looks whether it is found. */
  static byte[] frame(byte[] bytes) {
    return Zstd.compress(bytes);
  }
}
