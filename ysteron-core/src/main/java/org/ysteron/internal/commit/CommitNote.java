package org.ysteron.internal.commit;

import java.util.Collections;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import org.ysteron.error.InvalidInputException;
import org.ysteron.internal.text.Limits;

/**
 * What a commit says of itself.
 *
 * @param author who
 * @param program which program
 * @param note why, for people
 * @param statement the statement that caused it
 * @param labels names and values of the caller's own
 * @param id the id that the commit is to have; empty for a new one
 */
public record CommitNote(
    String author,
    String program,
    String note,
    String statement,
    Map<String, String> labels,
    Optional<UUID> id) {
  public CommitNote {
    Limits.text(author, Limits.WHO, "author");
    Limits.text(program, Limits.WHO, "program");
    Limits.text(note, Limits.NOTE, "note");
    Limits.text(statement, Limits.STATEMENT, "statement");
    if (labels.size() > Limits.LABELS) {
      throw new InvalidInputException(
          "A commit has %d labels; the limit is %d. Nothing was changed; use fewer labels."
              .formatted(labels.size(), Limits.LABELS));
    }
    labels.forEach(
        (name, value) -> {
          Limits.text(name, Limits.LABEL_NAME, "name of a label");
          Limits.text(value, Limits.LABEL_VALUE, "label " + name);
        });
    labels = Collections.unmodifiableMap(new TreeMap<>(labels));
  }

  /** The account that runs this process, this library, and nothing else. */
  public static CommitNote standard() {
    return new CommitNote(
        System.getProperty("user.name", "unknown"), "ysteron", "", "", Map.of(), Optional.empty());
  }

  public CommitNote withNote(String text) {
    return new CommitNote(author, program, text, statement, labels, id);
  }

  public CommitNote withStatement(String text) {
    return new CommitNote(author, program, note, text, labels, id);
  }

  /** This note by somebody else. */
  public CommitNote by(String newAuthor, String newProgram) {
    return new CommitNote(newAuthor, newProgram, note, statement, labels, id);
  }

  /** This note for a commit whose id is given. */
  public CommitNote withId(UUID commitId) {
    return new CommitNote(author, program, note, statement, labels, Optional.of(commitId));
  }

  /** This note with a name and a value of the caller's own. */
  public CommitNote withLabel(String name, String value) {
    Map<String, String> more = new TreeMap<>(labels);
    more.put(name, value);
    return new CommitNote(author, program, note, statement, more, id);
  }
}
