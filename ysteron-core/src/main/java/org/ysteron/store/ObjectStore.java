package org.ysteron.store;

import java.io.Closeable;
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
 *   <li>{@link #open} gives range reads over one object; a range that ends behind the object's end
 *       throws {@link StoreException}.
 *   <li>{@link #createIfAbsent} makes the object with all its bytes or not at all. Of any number of
 *       racing calls for one name at most one returns {@code true}; {@code false} means that an
 *       object of that name exists. After {@code true} the object survives a crash of process and
 *       machine. An exception says nothing about whether the object now exists: the caller finds
 *       out by reading it; only {@link NotAppliedException} says that the call made none.
 *   <li>{@link #put} streams an object under a name that the caller knows to be its own. It becomes
 *       visible, whole and durable, with {@link ObjectOutput#commit()}; closing without it leaves
 *       nothing behind.
 *   <li>{@link #delete} removes the object; an object that is not there is no error.
 *   <li>{@link #list} returns the immediate children of a directory in the order of their names,
 *       those after a given name, at most as many as asked for. An object that was acknowledged
 *       before the call is in the list; a directory that does not exist has no children.
 * </ul>
 */
public interface ObjectStore extends Closeable {

  /** Reads a whole object. */
  byte[] read(String name);

  /** Opens an object for range reads. */
  ObjectInput open(String name);

  /** Creates an object if none of that name exists; true when this call made it. */
  boolean createIfAbsent(String name, byte[] content);

  /** Starts writing an object of unknown length. */
  ObjectOutput put(String name);

  /** Removes an object. */
  void delete(String name);

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
}
