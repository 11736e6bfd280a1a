package org.ysteron.store;

import java.io.Closeable;
import java.time.Instant;
import java.util.List;

/**
 * Immutable objects under names, the only way in which a lake touches storage. Implementations are
 * safe for use by many threads and many processes at once and keep to this contract, which {@code
 * ObjectStoreContract} in the tests checks for each of them:
 *
 * <ul>
 *   <li>A name is one or more segments joined by {@code /}; a segment is 1 to 200 of the characters
 *       {@code A–Z a–z 0–9 . _ -} and does not start with a dot. Any other name is refused with
 *       {@link IllegalArgumentException} before anything is touched.
 *   <li>{@link #read(String)} returns the whole object or throws {@link MissingObjectException}. It
 *       never returns a part of an object that is being written.
 *   <li>{@link #open} gives range reads over one object, and {@link #readRange} one such read
 *       without asking for the object's length first; a range that ends behind the object's end
 *       throws {@link ShortObjectException}.
 *   <li>{@link #createIfAbsent} makes the object with all its bytes or not at all. Of any number of
 *       racing calls for one name at most one returns {@code true}; {@code false} means that an
 *       object of that name exists. After {@code true} the object survives a crash of process and
 *       machine. An exception says nothing about whether the object now exists: the caller finds
 *       out by reading it; only {@link NotAppliedException} says that the call made none.
 *   <li>{@link #settle} makes sure that an object that is there survives a crash, also when the
 *       call that made it failed on the way or was another process's.
 *   <li>{@link #put} streams an object under a name that the caller knows to be its own. It becomes
 *       visible, whole and durable, with {@link ObjectOutput#commit()}; closing without it leaves
 *       nothing behind.
 *   <li>{@link #unfinished} lists what is being written by {@link #put}, or was when its writer
 *       died; after {@link #discard} it is gone, and committing it fails.
 *   <li>{@link #delete} removes the object; an object that is not there is no error.
 *   <li>{@link #list} returns the immediate children of a directory in the order of their names,
 *       those after a given name, at most as many as asked for. An object that was acknowledged
 *       before the call is in the list; a directory that does not exist has no children.
 *   <li>Nothing but {@link #makeRoot} makes the place in which all objects are: when it is gone, so
 *       that another might be there later, every call that would create something fails.
 *   <li>{@link #time} is the store's own time, not this machine's where they differ.
 * </ul>
 *
 * <p>What a caller may not assume, since a bucket does not give it: that a listing and a read see
 * one instant; that an object keeps the place or time of another; that {@code false} from {@link
 * #createIfAbsent} means that somebody else made the object, for a client that sends a request
 * again by itself, its first reply being lost, is told that its own object is there. So whoever
 * wants to know puts something of its own into the content and reads it back.
 */
public interface ObjectStore extends Closeable {

  /** Reads a whole object. */
  byte[] read(String name);

  /** Opens an object for range reads. */
  ObjectInput open(String name);

  /** Creates an object if none of that name exists; true when this call made it. */
  boolean createIfAbsent(String name, byte[] content);

  /**
   * Reads {@code length} bytes from {@code offset} on.
   *
   * @throws ShortObjectException when the object ends before that
   */
  byte[] readRange(String name, long offset, int length);

  /** Makes sure that an object that is there survives a crash. */
  void settle(String name);

  /** Makes the place in which all objects are, if it is not there; for a new lake only. */
  void makeRoot();

  /** The store's own time. */
  Instant time();

  /** The objects below a directory that are being written, or whose writers died. */
  List<Unfinished> unfinished(String directory);

  /** Removes what there is of an unfinished object. */
  void discard(Unfinished unfinished);

  /** Starts writing an object of unknown length. */
  ObjectOutput put(String name);

  /** Removes an object. */
  void delete(String name);

  /**
   * Removes many objects, in any order; some of them may be gone when it fails. Implementations of
   * stores that can remove several by one request do so.
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

  /** Where this store is, for messages. */
  String location();

  @Override
  void close();

  /**
   * A child of a directory.
   *
   * @param segment its last name segment
   * @param directory whether it is a directory; a name may be one or the other, not both
   * @param size bytes of an object, 0 for a directory
   */
  record Child(String segment, boolean directory, long size) {}

  /**
   * An object that is not there yet.
   *
   * @param name the name that it is to have, which holds the number from which its writer started
   * @param token tells it from other attempts at the same name
   */
  record Unfinished(String name, String token) {}
}
