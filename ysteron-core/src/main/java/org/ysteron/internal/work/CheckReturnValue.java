package org.ysteron.internal.work;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * On a method that returns a changed copy and does nothing else, so that ignoring what it returns
 * is a mistake. Error Prone knows an annotation of this name, of any package, and says so.
 */
@Retention(RetentionPolicy.CLASS)
@Target(ElementType.METHOD)
public @interface CheckReturnValue {}
