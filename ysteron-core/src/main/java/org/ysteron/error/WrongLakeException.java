package org.ysteron.error;

import java.util.UUID;

/**
 * The store does not hold the lake that was opened: it was moved away, replaced by another one, or
 * restored to an older copy. Nothing was changed; open it again.
 */
public final class WrongLakeException extends YsteronException {
  private static final long serialVersionUID = 1L;

  private final String location;
  private final UUID lakeId;

  /**
   * For a lake.
   *
   * @param location where it was opened
   * @param lakeId the id of the lake that was opened
   */
  public WrongLakeException(String location, UUID lakeId, String message) {
    super(message);
    this.location = location;
    this.lakeId = lakeId;
  }

  /** Where the lake was opened. */
  public String location() {
    return location;
  }

  /** The id of the lake that was opened, which may be the id of the older copy, too. */
  public UUID lakeId() {
    return lakeId;
  }
}
