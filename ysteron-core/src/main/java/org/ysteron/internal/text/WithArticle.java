package org.ysteron.internal.text;

/** Names of classes in sentences. */
public final class WithArticle {
  private WithArticle() {}

  /** {@code an Integer}, {@code a String}. */
  public static String of(String className) {
    return ("AEIO".indexOf(className.charAt(0)) < 0 ? "a " : "an ") + className;
  }
}
