package org.ysteron.store;

import java.io.BufferedOutputStream;
import java.io.File;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.channels.Channels;
import java.nio.channels.FileChannel;
import java.nio.file.AccessDeniedException;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.BasicFileAttributes;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.ysteron.error.DamagedException;
import org.ysteron.error.NotFoundException;
import org.ysteron.internal.work.StoreFailures;

/**
 * Objects as files below a directory of a local POSIX disk. Thread-safe, and safe among processes.
 *
 * <p>An object is written to a hidden temporary file of its directory, synced, and then given its
 * name: by a hard link, which fails when the name is taken, or by a rename where the name is the
 * writer's own; the directory is synced last. A reader therefore sees all of an object or nothing,
 * and a killed writer leaves at most a hidden file.
 */
public final class LocalStore implements ObjectStore {
  private static final String WRITING = ".writing-";
  private static final int TOKEN = 36;
  private static final long TIME_LASTS_NANOS = 1_000_000_000L;
  private static final long TIME_HOLDS_NANOS = 100_000_000L;

  private final Path root;
  private volatile @Nullable Told told;
  private final Set<Path> knownDirectories = ConcurrentHashMap.newKeySet();
  private final Set<Path> inside = ConcurrentHashMap.newKeySet();

  /** What the disk told of its time, and when, as this process counts. */
  private record Told(Instant time, long nanos) {}

  /**
   * The store of an existing directory.
   *
   * @throws NotFoundException when it does not exist
   */
  public static LocalStore existing(Path directory) {
    try {
      if (Files.readAttributes(directory, BasicFileAttributes.class).isDirectory()) {
        return new LocalStore(directory);
      }
    } catch (AccessDeniedException e) {
      throw new StoreException("Access to the directory %s is denied.".formatted(directory), e);
    } catch (IOException e) {
      // there is none
    }
    throw new NotFoundException(
        NotFoundException.Kind.LAKE,
        directory.toString(),
        "There is no lake in %s: it is not a directory. Create a lake there, or check the path."
            .formatted(directory.toAbsolutePath().normalize()));
  }

  public LocalStore(Path root) {
    this.root = root.toAbsolutePath().normalize();
  }

  @Override
  public byte[] read(String name) {
    try {
      try (FileChannel channel = opened(name)) {
        ByteBuffer bytes = ByteBuffer.allocate(Math.toIntExact(channel.size()));
        readFully(name, channel, 0, bytes);
        return bytes.array();
      }
    } catch (NoSuchFileException e) {
      throw new MissingObjectException(name, location());
    } catch (IOException e) {
      throw failed("read", name, e);
    }
  }

  @Override
  public ObjectInput open(String name) {
    try {
      FileChannel channel = opened(name);
      return new LocalInput(name, channel, channel.size());
    } catch (NoSuchFileException e) {
      throw new MissingObjectException(name, location());
    } catch (IOException e) {
      throw failed("open", name, e);
    }
  }

  @Override
  public byte[] readRange(String name, long offset, int length) {
    try (FileChannel channel = opened(name)) {
      if (offset > channel.size() - length) {
        throw new ShortObjectException(name, location(), channel.size(), offset + length);
      }
      ByteBuffer bytes = ByteBuffer.allocate(length);
      readFully(name, channel, offset, bytes);
      return bytes.array();
    } catch (NoSuchFileException e) {
      throw new MissingObjectException(name, location());
    } catch (IOException e) {
      throw failed("read", name, e);
    }
  }

  /** Opens a file of the lake: nothing that a link leads to, and nothing that would block. */
  private FileChannel opened(String name) throws IOException {
    Path file = path(name);
    if (!Files.readAttributes(file, BasicFileAttributes.class, LinkOption.NOFOLLOW_LINKS)
        .isRegularFile()) {
      throw DamagedException.of(
          name,
          "%s in %s is a link, a pipe or a directory instead of a file, and is not read. Restore it from a copy of the lake."
              .formatted(name, location()),
          null);
    }
    checkInside(parent(file));
    return FileChannel.open(file, StandardOpenOption.READ, LinkOption.NOFOLLOW_LINKS);
  }

  /** The directory of something that is not the root of the file system. */
  private static Path parent(Path file) {
    return Objects.requireNonNull(file.getParent(), "the root of the file system");
  }

  /** A directory of the lake is below its root, wherever that is. */
  private void checkInside(Path directory) throws IOException {
    if (!inside.contains(directory)) {
      if (!directory.toRealPath().startsWith(root.toRealPath())) {
        throw DamagedException.of(
            root.relativize(directory).toString(),
            "%s points outside the lake in %s and is not followed. Restore it from a copy of the lake."
                .formatted(root.relativize(directory), location()),
            null);
      }
      inside.add(directory);
    }
  }

  private void readFully(String name, FileChannel channel, long offset, ByteBuffer target)
      throws IOException {
    long position = offset;
    while (target.hasRemaining()) {
      int count = channel.read(target, position);
      if (count < 0) {
        throw new ShortObjectException(
            name, location(), channel.size(), position + target.remaining());
      }
      position += count;
    }
  }

  @Override
  public void settle(String name) {
    try {
      Path directory = parent(path(name));
      sync(directory);
      while (!directory.equals(root)) {
        directory = parent(directory);
        sync(directory);
      }
    } catch (IOException e) {
      throw failed("sync", name, e);
    }
  }

  @Override
  public void makeRoot() {
    try {
      makeRoot(root);
    } catch (IOException e) {
      throw failed("make", "the directory", e);
    }
  }

  private static void makeRoot(Path directory) throws IOException {
    if (!Files.isDirectory(directory)) {
      makeRoot(parent(directory));
      make(directory);
    }
  }

  /** Makes a directory and syncs it into its parent, whoever made it. */
  private static void make(Path directory) throws IOException {
    try {
      Files.createDirectory(directory);
    } catch (FileAlreadyExistsException e) {
      if (!Files.isDirectory(directory)) {
        throw e;
      }
    }
    sync(parent(directory));
  }

  /**
   * The modification time of the file that was written last; of a new one when that was a second
   * ago. In between time goes on as this process counts it, which a machine that sleeps does not.
   */
  @Override
  public Instant time() {
    Told known = told;
    if (known == null || System.nanoTime() - known.nanos > TIME_LASTS_NANOS) {
      Path temporary = root.resolve(WRITING + "time-" + UUID.randomUUID());
      try {
        Files.createFile(temporary);
        known = tell(temporary);
      } catch (IOException e) {
        if (!Files.isWritable(root)) {
          return Instant.now(); // who may only read has no other
        }
        throw failed("write", temporary.getFileName().toString(), e);
      } finally {
        tidy(temporary);
      }
    }
    return known.time.plusNanos(System.nanoTime() - known.nanos);
  }

  private Told tell(Path written) throws IOException {
    long nanos = System.nanoTime();
    Told known = told;
    if (known != null && nanos - known.nanos < TIME_HOLDS_NANOS) {
      return known;
    }
    Told now = new Told(Files.getLastModifiedTime(written).toInstant(), nanos);
    told = now;
    return now;
  }

  @Override
  public List<Unfinished> unfinished(String directory) {
    ObjectNames.checkDirectory(directory);
    List<Unfinished> found = new ArrayList<>();
    collect(directory, directory.isEmpty() ? root : root.resolve(directory), found);
    return found;
  }

  private static void collect(String name, Path directory, List<Unfinished> found) {
    File[] files = directory.toFile().listFiles();
    for (File file : files == null ? new File[0] : files) {
      String segment = file.getName();
      String below = name.isEmpty() ? segment : name + "/" + segment;
      if (segment.startsWith(WRITING) && segment.length() > WRITING.length() + TOKEN + 1) {
        int end = segment.length() - TOKEN;
        String target = segment.substring(WRITING.length(), end - 1);
        found.add(
            new Unfinished(name.isEmpty() ? target : name + "/" + target, segment.substring(end)));
      } else if (!segment.startsWith(".") && file.isDirectory()) {
        collect(below, file.toPath(), found);
      }
    }
  }

  @Override
  public void discard(Unfinished unfinished) {
    Path target = path(unfinished.name());
    try {
      Files.deleteIfExists(temporary(target, UUID.fromString(unfinished.token())));
    } catch (IOException e) {
      throw failed("delete", unfinished.name(), e);
    }
  }

  @Override
  public boolean createIfAbsent(String name, byte[] content) {
    Path target = path(name);
    try {
      if (!linkNew(name, target, content)) {
        return false;
      }
    } catch (IOException e) {
      // It failed before the name was given, so the object is not there.
      throw new NotAppliedException(failed("create", name, e).getMessage(), e);
    }
    try {
      sync(parent(target));
      return true;
    } catch (IOException e) {
      throw failed("create", name, e);
    }
  }

  /** Writes a hidden file, syncs it and gives it its name; false when the name is taken. */
  private boolean linkNew(String name, Path target, byte[] content) throws IOException {
    makeDirectories(parent(target));
    Path temporary = temporary(target);
    try {
      try (FileChannel channel =
          FileChannel.open(temporary, StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE)) {
        ByteBuffer bytes = ByteBuffer.wrap(content);
        while (bytes.hasRemaining()) {
          channel.write(bytes);
        }
        tell(temporary);
        channel.force(false);
      }
      return link(name, target, temporary);
    } finally {
      tidy(temporary);
    }
  }

  /** Removes a hidden file; one that stays is seen by nobody and must not hide how a call ended. */
  private static void tidy(Path temporary) {
    try {
      Files.deleteIfExists(temporary);
    } catch (IOException e) {
      StoreFailures.log(temporary.toString(), new StoreException(e.toString(), e));
    }
  }

  /** Gives a file its name; a failure leaves open whether it has it. */
  private boolean link(String name, Path target, Path temporary) {
    try {
      Files.createLink(target, temporary);
      return true;
    } catch (FileAlreadyExistsException e) {
      return false;
    } catch (IOException e) {
      throw failed("create", name, e);
    }
  }

  @Override
  public ObjectOutput put(String name) {
    Path target = path(name);
    Path temporary = temporary(target);
    try {
      makeDirectories(parent(target));
      FileChannel channel =
          FileChannel.open(temporary, StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE);
      return new LocalOutput(name, channel, temporary, target);
    } catch (IOException e) {
      tidy(temporary);
      throw failed("write", name, e);
    }
  }

  @Override
  public void delete(String name) {
    try {
      Files.deleteIfExists(path(name));
    } catch (IOException e) {
      throw failed("delete", name, e);
    }
  }

  @Override
  public List<Child> list(String directory, String after, int limit) {
    ObjectNames.checkDirectory(directory);
    Path parent = directory.isEmpty() ? root : root.resolve(directory);
    String[] names = parent.toFile().list(); // several times as fast as a stream of paths
    if (names == null && isThere(parent)) {
      names = parent.toFile().list(); // it may have been made between the two looks
    }
    if (names == null) {
      if (isThere(parent)) {
        throw new StoreException("Could not list %s in %s.".formatted(directory, location()));
      }
      return List.of();
    }
    try {
      checkInside(parent);
    } catch (IOException e) {
      throw failed("list", directory, e);
    }
    List<String> segments = new ArrayList<>();
    for (String name : names) {
      if (!name.startsWith(".") && name.compareTo(after) > 0) {
        segments.add(name);
      }
    }
    segments.sort(Comparator.naturalOrder());
    List<Child> children = new ArrayList<>();
    for (String segment : segments.subList(0, Math.min(limit, segments.size()))) {
      child(parent, segment).ifPresent(children::add);
    }
    return children;
  }

  /** Whether there is a directory; one that may not be looked at is not called missing. */
  private boolean isThere(Path directory) {
    try {
      return Files.readAttributes(directory, BasicFileAttributes.class).isDirectory();
    } catch (AccessDeniedException e) {
      return true;
    } catch (IOException e) {
      return false;
    }
  }

  /** The child of that name; empty when it was deleted while we listed. */
  private Optional<Child> child(Path parent, String segment) {
    try {
      BasicFileAttributes attributes =
          Files.readAttributes(parent.resolve(segment), BasicFileAttributes.class);
      boolean isDirectory = attributes.isDirectory();
      return Optional.of(new Child(segment, isDirectory, isDirectory ? 0 : attributes.size()));
    } catch (NoSuchFileException e) {
      return Optional.empty();
    } catch (IOException e) {
      throw failed("list", segment, e);
    }
  }

  @Override
  public String location() {
    return root.toString();
  }

  @Override
  public void close() {}

  private Path path(String name) {
    return root.resolve(ObjectNames.check(name));
  }

  private static Path temporary(Path target) {
    return temporary(target, UUID.randomUUID());
  }

  /**
   * A hidden name that tells what the file is to be, and so from which entry its writer started.
   */
  private static Path temporary(Path target, UUID token) {
    return target.resolveSibling(WRITING + target.getFileName() + "-" + token);
  }

  /** Makes directories, each synced into its parent: a file's name lasts only if its path does. */
  private void makeDirectories(Path directory) throws IOException {
    if (knownDirectories.contains(directory) && Files.isDirectory(directory)) {
      return;
    }
    if (directory.equals(root)) {
      if (!Files.isDirectory(root)) {
        throw new NoSuchFileException(root.toString(), null, "the directory of the lake is gone");
      }
      return;
    }
    makeDirectories(parent(directory));
    make(directory);
    knownDirectories.add(directory);
  }

  private static void sync(Path directory) throws IOException {
    try (FileChannel channel = FileChannel.open(directory, StandardOpenOption.READ)) {
      channel.force(true);
    }
  }

  private StoreException failed(String verb, String name, IOException e) {
    String reason = e.getClass().getSimpleName() + ": " + e.getMessage();
    if (e instanceof java.nio.file.AccessDeniedException) {
      reason = "access is denied; check the permissions of the directory";
    } else if (String.valueOf(e.getMessage()).contains("No space left")) {
      reason = "no space is left on the device; free some and try again";
    } else if (!Files.isDirectory(root)) {
      reason = "the directory is gone; it was moved away, or its disk is not mounted";
    } else if (String.valueOf(e.getMessage()).contains("Read-only file system")) {
      reason = "the file system is read-only";
    }
    return new StoreException(
        "Could not %s %s in %s: %s.".formatted(verb, name, location(), reason), e);
  }

  private final class LocalInput implements ObjectInput {
    private final String name;
    private final FileChannel channel;
    private final long size;

    LocalInput(String name, FileChannel channel, long size) {
      this.name = name;
      this.channel = channel;
      this.size = size;
    }

    @Override
    public long size() {
      return size;
    }

    @Override
    public void readFully(long offset, ByteBuffer target) {
      try {
        LocalStore.this.readFully(name, channel, offset, target);
      } catch (IOException e) {
        throw failed("read", name, e);
      }
    }

    @Override
    public void close() {
      try {
        channel.close();
      } catch (IOException e) {
        throw failed("close", name, e);
      }
    }
  }

  private final class LocalOutput extends ObjectOutput {
    private static final int BUFFER = 1 << 16;
    private final String name;
    private final FileChannel channel;
    private final OutputStream buffered;
    private final Path temporary;
    private final Path target;
    private long position;
    private boolean closed;

    LocalOutput(String name, FileChannel channel, Path temporary, Path target) {
      this.name = name;
      this.channel = channel;
      this.buffered = new BufferedOutputStream(Channels.newOutputStream(channel), BUFFER);
      this.temporary = temporary;
      this.target = target;
    }

    @Override
    public long position() {
      return position;
    }

    @Override
    public void write(int b) {
      write(new byte[] {(byte) b}, 0, 1);
    }

    @Override
    public void write(byte[] b, int offset, int length) {
      try {
        buffered.write(b, offset, length);
        position += length;
      } catch (IOException e) {
        throw failed("write", name, e);
      }
    }

    @Override
    public void commit() {
      try {
        buffered.flush();
        tell(temporary);
        channel.force(false);
        Files.move(temporary, target, StandardCopyOption.ATOMIC_MOVE);
        sync(parent(target));
      } catch (IOException e) {
        throw failed("write", name, e);
      } finally {
        close();
      }
    }

    @Override
    public void close() {
      if (closed) {
        return;
      }
      closed = true;
      try {
        channel.close();
      } catch (IOException e) {
        throw failed("close", name, e);
      } finally {
        tidy(temporary);
      }
    }
  }
}
