package org.ysteron.store;

/** No object of that name exists. */
public final class MissingObjectException extends StoreException {
  private static final long serialVersionUID = 1L;

  public MissingObjectException(String name, String location) {
    super("There is no object " + name + " in " + location + ".");
  }
}
