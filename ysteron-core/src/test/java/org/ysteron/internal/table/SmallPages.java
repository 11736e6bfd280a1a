package org.ysteron.internal.table;

/**
 * As long as it is open, pages of file entries are made of about so many bytes, and schemas of more
 * have pages of their own; 0 for what is usual. So may all masks have.
 */
public final class SmallPages implements AutoCloseable {
  public SmallPages(int entries, int schemas) {
    FileFormat.makePagesOf(entries);
    SchemaPage.makeAbove(schemas);
  }

  public SmallPages(int entries, int schemas, boolean masks) {
    this(entries, schemas);
    RowMask.inlineUpTo(masks ? 0 : -1);
  }

  @Override
  public void close() {
    FileFormat.makePagesOf(0);
    SchemaPage.makeAbove(0);
    RowMask.inlineUpTo(-1);
  }
}
