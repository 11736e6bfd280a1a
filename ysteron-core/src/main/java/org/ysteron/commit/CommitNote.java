package org.ysteron.commit;

/**
 * What a commit says of itself.
 *
 * @param author who
 * @param program which program
 * @param note why, for people
 * @param statement the statement that caused it
 */
public record CommitNote(String author, String program, String note, String statement) {

  /** The account that runs this process, this library, and nothing else. */
  public static CommitNote standard() {
    return new CommitNote(System.getProperty("user.name", "unknown"), "ysteron", "", "");
  }

  public CommitNote withNote(String text) {
    return new CommitNote(author, program, text, statement);
  }

  public CommitNote withStatement(String text) {
    return new CommitNote(author, program, note, text);
  }
}
