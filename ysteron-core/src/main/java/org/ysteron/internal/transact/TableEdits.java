package org.ysteron.internal.transact;

import java.util.UUID;
import org.ysteron.error.AlreadyExistsException;
import org.ysteron.error.ConflictException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.commit.Change;
import org.ysteron.internal.commit.Staging;
import org.ysteron.internal.form.TableForm;
import org.ysteron.internal.form.TableNumbers;
import org.ysteron.internal.lake.TableListing;
import org.ysteron.internal.table.StatisticsPage;
import org.ysteron.internal.table.VersionPage;
import org.ysteron.option.TableSettings;
import org.ysteron.report.CommitStamp;

/** Changes of tables as a whole. Each may be applied to any later state. */
public final class TableEdits {
  private TableEdits() {}

  /** Creates a table under a name that no table has. */
  public static Change create(UUID id, String name, TableForm form, TableSettings settings) {
    TableNames.check(name);
    return staging -> {
      refuseTaken(staging, name);
      staging.put(
          VersionPage.create(id, name, form, settings, staging.commit()),
          TableNumbers.of(form),
          false);
    };
  }

  static void refuseTaken(Staging staging, String name) {
    staging
        .table(name)
        .ifPresent(
            listing -> {
              throw new AlreadyExistsException(
                  AlreadyExistsException.Kind.TABLE,
                  name,
                  "Table %s already exists, at version %d. Drop or rename it first, or choose another name."
                      .formatted(name, listing.version()));
            });
  }

  /** Drops a table; it can be brought back. */
  public static Change drop(UUID id, String name) {
    return staging -> {
      TableListing listing = named(staging, id, name);
      staging.put(staging.next(listing, "drop"), listing.numbers(), true);
    };
  }

  /** Gives a table another name. */
  public static Change rename(UUID id, String name, String newName) {
    TableNames.check(newName);
    return staging -> {
      TableListing listing = named(staging, id, name);
      refuseTaken(staging, newName);
      staging.put(staging.next(listing, "rename").withName(newName), listing.numbers(), false);
    };
  }

  /** Keeps what the values of a version of a table were like. */
  public static Change measured(UUID id, String name, StatisticsPage found) {
    return staging -> {
      TableListing listing = existing(staging, id, name);
      VersionPage next = staging.next(listing, "measure");
      staging.put(next.measured(found, staging.batch(id)), listing.numbers(), false);
    };
  }

  /** Brings a dropped table back under a name that no table has. */
  public static Change bringBack(UUID id, String name) {
    TableNames.check(name);
    return staging -> {
      TableListing listing =
          staging
              .table(id)
              .filter(TableListing::dropped)
              .orElseThrow(
                  () ->
                      new NotFoundException(
                          NotFoundException.Kind.TABLE,
                          name,
                          "Table %s (%s) is not a dropped table.".formatted(name, id)));
      refuseTaken(staging, name);
      staging.put(staging.next(listing, "bring back").withName(name), listing.numbers(), false);
    };
  }

  /** The table, which must still have that name. */
  private static TableListing named(Staging staging, UUID id, String name) {
    TableListing listing = existing(staging, id, name);
    if (!listing.name().equals(name)) {
      throw new NotFoundException(
          NotFoundException.Kind.TABLE,
          name,
          "Table %s was renamed to %s by another commit. Nothing was changed."
              .formatted(name, listing.name()));
    }
    return listing;
  }

  /** The table, which must not have been dropped since the change was started. */
  static TableListing existing(Staging staging, UUID id, String name) {
    TableListing listing =
        staging
            .table(id)
            .orElseThrow(
                () ->
                    new NotFoundException(
                        NotFoundException.Kind.TABLE, name, "There is no table " + name + "."));
    if (listing.dropped()) {
      CommitStamp by = VersionPage.read(listing.page(), staging.pages()).record().commit();
      throw new ConflictException(
          ConflictException.Kind.TABLE_DROPPED,
          name,
          "Table %s was dropped at version %d by %s. Nothing was changed; bring it back first."
              .formatted(name, listing.version(), by.who()));
    }
    return listing;
  }
}
