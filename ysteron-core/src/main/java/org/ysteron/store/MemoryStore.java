package org.ysteron.store;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentSkipListMap;

/** Objects in memory, for tests and for lakes that end with the process. Thread-safe. */
public final class MemoryStore implements ObjectStore {
  private final ConcurrentSkipListMap<String, byte[]> objects = new ConcurrentSkipListMap<>();
  private final Set<Unfinished> unfinished = ConcurrentHashMap.newKeySet();

  @Override
  public byte[] read(String name) {
    return find(name).clone();
  }

  private byte[] find(String name) {
    byte[] content = objects.get(ObjectNames.check(name));
    if (content == null) {
      throw new MissingObjectException(name, location());
    }
    return content;
  }

  @Override
  public ObjectInput open(String name) {
    byte[] content = find(name);
    return new ObjectInput() {
      @Override
      public long size() {
        return content.length;
      }

      @Override
      public void readFully(long offset, ByteBuffer target) {
        check(name, content, offset, target.remaining());
        target.put(content, (int) offset, target.remaining());
      }

      @Override
      public void close() {}
    };
  }

  private void check(String name, byte[] content, long offset, int length) {
    if (offset < 0 || offset > content.length - (long) length) {
      throw new ShortObjectException(name, location(), content.length, offset + length);
    }
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    byte[] content = find(name);
    check(name, content, offset, length);
    return Arrays.copyOfRange(content, (int) offset, (int) offset + length);
  }

  @Override
  public void settle(String name) {}

  @Override
  public void makeRoot() {}

  /** A heap has no clock but the machine's. */
  @Override
  public Instant time() {
    return Instant.now();
  }

  @Override
  public List<Unfinished> unfinished(String directory) {
    ObjectNames.checkDirectory(directory);
    return unfinished.stream()
        .filter(one -> directory.isEmpty() || one.name().startsWith(directory + "/"))
        .toList();
  }

  @Override
  public void discard(Unfinished one) {
    unfinished.remove(one);
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    return objects.putIfAbsent(ObjectNames.check(name), content.clone()) == null;
  }

  @Override
  public ObjectOutput put(String name) {
    Unfinished own = new Unfinished(ObjectNames.check(name), UUID.randomUUID().toString());
    ByteArrayOutputStream bytes = new ByteArrayOutputStream();
    unfinished.add(own);
    return new ObjectOutput() {
      @Override
      public long position() {
        return bytes.size();
      }

      @Override
      public void write(int b) {
        bytes.write(b);
      }

      @Override
      public void write(byte[] b, int offset, int length) {
        bytes.write(b, offset, length);
      }

      @Override
      public void commit() {
        if (!unfinished.remove(own)) {
          throw new StoreException(
              "Could not write %s in %s: it was discarded before it was complete."
                  .formatted(name, location()));
        }
        objects.put(name, bytes.toByteArray());
      }

      @Override
      public void close() {
        unfinished.remove(own);
      }
    };
  }

  @Override
  public void delete(String name) {
    objects.remove(ObjectNames.check(name));
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    ObjectNames.checkDirectory(directory);
    String prefix = directory.isEmpty() ? "" : directory + "/";
    List<Child> children = new ArrayList<>();
    String from = prefix + after;
    // '0' is the character after '/', so that a directory's own content is skipped in one step.
    Map.Entry<String, byte[]> entry = objects.ceilingEntry(from);
    while (entry != null && entry.getKey().startsWith(prefix) && children.size() < limit) {
      String rest = entry.getKey().substring(prefix.length());
      int slash = rest.indexOf('/');
      String segment = slash < 0 ? rest : rest.substring(0, slash);
      if (segment.compareTo(after) > 0) {
        children.add(new Child(segment, slash >= 0, slash < 0 ? entry.getValue().length : 0));
      }
      entry =
          slash < 0
              ? objects.higherEntry(entry.getKey())
              : objects.ceilingEntry(prefix + segment + '0');
    }
    return children;
  }

  @Override
  public String location() {
    return "memory";
  }

  @Override
  public void close() {}
}
