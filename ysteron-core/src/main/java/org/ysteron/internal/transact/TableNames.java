package org.ysteron.internal.transact;

import java.util.regex.Pattern;
import org.ysteron.data.Values;
import org.ysteron.error.InvalidInputException;

/**
 * The rule for table names: a namespace and a name, joined by a dot; each is 1 to 100 letters,
 * digits and underscores and does not start with a digit.
 */
public final class TableNames {
  private static final int LONGEST = 100;
  private static final Pattern PART = Pattern.compile("[\\p{L}_][\\p{L}\\p{N}_]*");

  private TableNames() {}

  /** Returns the name if it is one. */
  public static String check(String name) {
    String[] parts = name.split("\\.", -1);
    boolean good = parts.length == 2;
    for (String part : parts) {
      good = good && part.length() <= LONGEST && PART.matcher(part).matches();
    }
    if (!good) {
      throw new InvalidInputException(
          "%s is not a table name. A table name is a namespace and a name, as in tide.readings; each has 1 to %d letters, digits and underscores and does not start with a digit."
              .formatted(Values.quote(name), LONGEST));
    }
    return name;
  }
}
