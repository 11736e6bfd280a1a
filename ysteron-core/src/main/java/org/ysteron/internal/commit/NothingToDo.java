package org.ysteron.internal.commit;

/** Thrown while a change is applied that would change nothing, so that no commit is made of it. */
public final class NothingToDo extends RuntimeException {
  private static final long serialVersionUID = 1;

  public NothingToDo() {
    super("nothing to do", null, false, false);
  }
}
