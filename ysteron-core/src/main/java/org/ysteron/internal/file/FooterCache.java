package org.ysteron.internal.file;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.UUID;
import org.ysteron.store.ObjectInput;

/** Keeps some footers that were read, by the hash of their bytes. Thread-safe. */
public final class FooterCache {
  private static final long MOST_BYTES = 8L << 20;

  private final long mostBytes;
  private final Map<String, Kept> kept = new LinkedHashMap<>(16, 0.75f, true);
  private long bytes;

  private record Kept(Footer footer, long length) {}

  public FooterCache() {
    this(MOST_BYTES);
  }

  /** Keeps footers of about so many bytes. */
  public FooterCache(long mostBytes) {
    this.mostBytes = mostBytes;
  }

  Footer get(ObjectInput input, DataFile file, UUID tableId) {
    synchronized (this) {
      Kept found = kept.get(file.footerHash());
      if (found != null) {
        return found.footer;
      }
    }
    Footer footer = Footer.read(input, file, tableId);
    synchronized (this) {
      if (kept.put(file.footerHash(), new Kept(footer, file.footerLength())) == null) {
        bytes += file.footerLength();
      }
      var eldest = kept.values().iterator();
      while (bytes > mostBytes && eldest.hasNext()) {
        bytes -= eldest.next().length;
        eldest.remove();
      }
    }
    return footer;
  }
}
