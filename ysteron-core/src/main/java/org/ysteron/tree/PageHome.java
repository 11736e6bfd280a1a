package org.ysteron.tree;

import java.util.UUID;

/**
 * The object that holds some pages, and where its page region starts. While a commit is being made
 * its home is open: its pages are in memory and refer to each other relative to the region. Thread-
 * safe once it is settled.
 */
public final class PageHome {

  /** What kind of object holds pages. */
  public enum Kind {
    /** An entry of the ledger, named by its number. */
    ENTRY,
    /** An object of pages only, named by the number from which its writer started, and an id. */
    PAGES
  }

  private volatile boolean settled;
  private Kind kind;
  private long number;
  private UUID id;
  private long regionStart;
  private final PageBatch batch;

  PageHome(PageBatch batch) {
    this.batch = batch;
  }

  private PageHome(Kind kind, long number, UUID id, long regionStart) {
    this.batch = null;
    settle(kind, number, id, regionStart);
  }

  /** The pages of an entry whose region starts at some byte. */
  public static PageHome entry(long number, long regionStart) {
    return new PageHome(Kind.ENTRY, number, new UUID(0, 0), regionStart);
  }

  /** The pages of a page object. */
  public static PageHome pages(long number, UUID id, long regionStart) {
    return new PageHome(Kind.PAGES, number, id, regionStart);
  }

  void settle(Kind newKind, long newNumber, UUID newId, long newRegionStart) {
    kind = newKind;
    number = newNumber;
    id = newId;
    regionStart = newRegionStart;
    settled = true;
  }

  /** The batch of an open home, else null. */
  PageBatch openBatch() {
    return settled ? null : batch;
  }

  public Kind kind() {
    return kind;
  }

  public long number() {
    return number;
  }

  public UUID id() {
    return id;
  }

  public long regionStart() {
    return regionStart;
  }

  /** The object's name in the store. */
  public String objectName() {
    if (!settled) {
      throw new IllegalStateException("the pages of an unfinished commit have no object yet");
    }
    return kind == Kind.ENTRY ? entryName(number) : "pages/" + nine(number) + "-" + id;
  }

  /** {@code ledger/000/000/042}. */
  public static String entryName(long number) {
    String digits = nine(number);
    return "ledger/"
        + digits.substring(0, 3)
        + "/"
        + digits.substring(3, 6)
        + "/"
        + digits.substring(6);
  }

  /** A number of nine digits, so that names order as numbers do. */
  public static String nine(long number) {
    return "%09d".formatted(number);
  }
}
