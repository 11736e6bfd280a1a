package org.ysteron.internal.upkeep;

/** As long as it is open, few versions expire in one commit. */
public final class SmallExpiries implements AutoCloseable {
  public SmallExpiries(int versions) {
    ExpiryRun.makeMostInOneCommit(versions);
  }

  @Override
  public void close() {
    ExpiryRun.makeMostInOneCommit(0);
  }
}
