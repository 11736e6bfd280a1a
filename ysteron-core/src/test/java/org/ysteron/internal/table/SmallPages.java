package org.ysteron.internal.table;

/**
 * As long as it is open, pages of file entries are made of about so many bytes, and schemas of more
 * have pages of their own; 0 for what is usual.
 */
public final class SmallPages implements AutoCloseable {
  public SmallPages(int entries, int schemas) {
    FileFormat.makePagesOf(entries);
    SchemaPage.makeAbove(schemas);
  }

  @Override
  public void close() {
    FileFormat.makePagesOf(0);
    SchemaPage.makeAbove(0);
  }
}
