package org.ysteron.table;

/** As long as it is open, pages of file entries are made of about so many bytes. */
public final class SmallPages implements AutoCloseable {
  public SmallPages(int bytes) {
    FileFormat.makePagesOf(bytes);
  }

  @Override
  public void close() {
    FileFormat.makePagesOf(0);
  }
}
