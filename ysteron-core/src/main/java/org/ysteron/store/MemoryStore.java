package org.ysteron.store;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentSkipListMap;

/** Objects on the heap, for tests and for lakes that live as long as a process. Thread-safe. */
public final class MemoryStore implements ObjectStore {
  private final ConcurrentSkipListMap<String, byte[]> objects = new ConcurrentSkipListMap<>();

  @Override
  public byte[] read(String name) {
    return find(name).clone();
  }

  private byte[] find(String name) {
    byte[] content = objects.get(Names.check(name));
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
        if (offset < 0 || offset + target.remaining() > content.length) {
          throw new StoreException(
              "Object %s has %d bytes; bytes up to %d were asked for."
                  .formatted(name, content.length, offset + target.remaining()));
        }
        target.put(content, (int) offset, target.remaining());
      }

      @Override
      public void close() {}
    };
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    return objects.putIfAbsent(Names.check(name), content.clone()) == null;
  }

  @Override
  public ObjectOutput put(String name) {
    Names.check(name);
    ByteArrayOutputStream bytes = new ByteArrayOutputStream();
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
        objects.put(name, bytes.toByteArray());
      }

      @Override
      public void close() {}
    };
  }

  @Override
  public void delete(String name) {
    objects.remove(Names.check(name));
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    Names.checkDirectory(directory);
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
