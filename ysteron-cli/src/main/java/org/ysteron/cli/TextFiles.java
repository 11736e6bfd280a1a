package org.ysteron.cli;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import org.ysteron.error.InvalidInputException;

/** Small files of text in UTF-8 that a command reads or writes beside the lake. */
final class TextFiles {
  private TextFiles() {}

  /**
   * All of a file, {@code -} for standard input.
   *
   * @param what what is in it, for messages
   * @throws InvalidInputException when it cannot be read, or is not text
   */
  static String read(String file, String what) {
    try {
      byte[] bytes =
          file.equals("-")
              ? new StandardInput(System.in).readAllBytes()
              : Files.readAllBytes(Path.of(file));
      return StandardCharsets.UTF_8.newDecoder().decode(ByteBuffer.wrap(bytes)).toString();
    } catch (CharacterCodingException e) {
      throw new InvalidInputException(
          "The %s in %s is not text in UTF-8. Nothing was changed; save it as UTF-8."
              .formatted(what, file),
          e);
    } catch (IOException e) {
      throw new InvalidInputException(
          "The %s cannot be read from %s: %s. Nothing was changed; name a file that can be read."
              .formatted(what, file, reason(Path.of(file), e)),
          e);
    }
  }

  /** Why a file could not be read or written, in words. */
  static String reason(Path file, IOException e) {
    if (e instanceof NoSuchFileException) {
      return Files.exists(file) ? "its directory does not exist" : "there is no such file";
    }
    if (e instanceof FileAlreadyExistsException) {
      return "it already exists";
    }
    if (Files.isDirectory(file)) {
      return "it is a directory";
    }
    return e.getMessage() == null ? e.getClass().getSimpleName() : e.getMessage();
  }

  /** Puts a text in the place of a file, wholly or not at all. */
  static void replace(Path file, String text) throws IOException {
    Path beside = file.resolveSibling(file.getFileName() + ".new");
    try {
      write(beside, text);
      Files.move(beside, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    } finally {
      Files.deleteIfExists(beside);
    }
  }

  /** Writes a text to a file and makes sure that it is on the disk. */
  static void write(Path file, String text) throws IOException {
    try (OutputStream out = Files.newOutputStream(file)) {
      out.write(text.getBytes(StandardCharsets.UTF_8));
    }
    try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
      channel.force(true);
    }
  }
}
