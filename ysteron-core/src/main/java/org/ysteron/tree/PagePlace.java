package org.ysteron.tree;

/**
 * Where a page stands, which its references to pages of the same object are relative to.
 *
 * @param home the object
 * @param offset its first byte, counted as the home counts
 */
public record PagePlace(PageHome home, long offset) {}
