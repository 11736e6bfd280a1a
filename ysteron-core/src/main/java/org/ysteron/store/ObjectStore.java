package org.ysteron.store;

import java.io.Closeable;
import java.time.Instant;
import java.util.List;

/**
 * Immutable objects under names. A lake accesses storage only through this interface.
 * Implementations are safe for use by many threads and processes and follow this contract, which
 * {@code ObjectStoreContract} in the tests checks for each of them:
 *
 * <ul>
 *   <li>A name is one or more segments joined by {@code /}; a segment is 1 to 200 of the characters
 *       {@code A–Z a–z 0–9 . _ -} and does not start with a dot. Any other name is rejected with
 *       {@link IllegalArgumentException} before anything is changed.
 *   <li>{@link #read(String)} returns the whole object or throws {@link MissingObjectException}. It
 *       never returns a part of an object that is being written.
 *   <li>{@link #open} gives range reads over one object, and {@link #readRange} one such read
 *       without asking for the object's length first; a range beyond the object's end throws {@link
 *       ShortObjectException}.
 *   <li>{@link #createIfAbsent} creates the object with all its bytes or not at all. Of any number
 *       of concurrent calls for one name at most one returns {@code true}; {@code false} means that
 *       an object of that name exists. After {@code true} the object survives a crash of process
 *       and machine. After an exception it is unknown whether the object exists, and the caller has
 *       to read it; only {@link NotAppliedException} says that the call has not created it.
 *   <li>{@link #settle} makes an existing object durable, also if the call that created it failed,
 *       or was made by another process.
 *   <li>{@link #put} streams an object under a name that only the caller uses. It becomes visible,
 *       whole and durable, with {@link ObjectOutput#commit()}; closing it before leaves nothing.
 *   <li>{@link #unfinished} lists objects that are being written by {@link #put}, or whose writers
 *       died; {@link #discard} removes one, and its commit then fails.
 *   <li>{@link #delete} removes the object; a missing object is not an error.
 *   <li>{@link #list} returns the immediate children of a directory in the order of their names,
 *       those after a given name, at most as many as asked for. An object that was acknowledged
 *       before the call is in the list; a directory that does not exist has no children.
 *   <li>Only {@link #makeRoot} creates the root of all objects. If the root is gone, every call
 *       that creates something fails.
 *   <li>{@link #time} is the clock of the store, which can differ from this machine's.
 * </ul>
 *
 * <p>A caller cannot assume, since object stores do not guarantee it: that a listing and a read see
 * the same instant; that an object keeps the place or time of another; that {@code false} from
 * {@link #createIfAbsent} means that another caller created the object. A client that repeats a
 * request after a lost reply is told that its own object exists. To find out, a caller puts
 * something unique into the content and reads it back.
 */
public interface ObjectStore extends Closeable {

  /** Reads a whole object. */
  byte[] read(String name);

  /** Opens an object for range reads. */
  ObjectInput open(String name);

  /** Creates an object if none of that name exists; true if this call created it. */
  boolean createIfAbsent(String name, byte[] content);

  /**
   * Reads {@code length} bytes from {@code offset} on.
   *
   * @throws ShortObjectException when the object ends before that
   */
  byte[] readRange(String name, long offset, int length);

  /** Makes an existing object durable. */
  void settle(String name);

  /** Creates the root of all objects if it does not exist; for a new lake only. */
  void makeRoot();

  /** The clock of the store. */
  Instant time();

  /** The objects below a directory that are being written, or whose writers died. */
  List<Unfinished> unfinished(String directory);

  /** Removes an unfinished object. */
  void discard(Unfinished unfinished);

  /** Starts writing an object of unknown length. */
  ObjectOutput put(String name);

  /** Deletes an object. */
  void delete(String name);

  /**
   * Deletes many objects, in any order; after a failure some of them may be deleted. Stores that
   * can delete several by one request do so.
   */
  default void deleteAll(List<String> names) {
    names.forEach(this::delete);
  }

  /**
   * Lists children of a directory.
   *
   * @param directory a name, or the empty string for the root
   * @param after only children whose segment sorts after this one; empty for all
   * @param limit at most so many
   */
  List<Child> list(String directory, String after, int limit);

  /** The location of the store, for messages. */
  String location();

  @Override
  void close();

  /**
   * A child of a directory.
   *
   * @param segment the last segment of its name
   * @param directory whether it is a directory; a name may be one or the other, not both
   * @param size bytes of an object, 0 for a directory
   */
  record Child(String segment, boolean directory, long size) {}

  /**
   * An object that is not finished yet.
   *
   * @param name its future name, which contains the ledger entry at which its writer started
   * @param token distinguishes it from other attempts at the same name
   */
  record Unfinished(String name, String token) {}
}
