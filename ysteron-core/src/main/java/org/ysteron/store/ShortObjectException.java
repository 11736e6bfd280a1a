package org.ysteron.store;

/** An object ends before the bytes that were asked for. */
public final class ShortObjectException extends StoreException {
  private static final long serialVersionUID = 1L;

  private final long size;

  public ShortObjectException(String name, String location, long size, long wanted) {
    super(
        "Object %s in %s has %d bytes; bytes up to %d were asked for."
            .formatted(name, location, size, wanted));
    this.size = size;
  }

  /** The object's size in bytes. */
  public long size() {
    return size;
  }
}
