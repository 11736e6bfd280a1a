package org.ysteron;

import java.nio.file.Path;

/** A process of its own that appends rows to a table and says which versions it was promised. */
public final class AppendProcess {
  private AppendProcess() {}

  /** Takes the lake's directory, the table, the first value, and how many appends of 10 rows. */
  public static void main(String[] arguments) {
    int first = Integer.parseInt(arguments[2]);
    int appends = Integer.parseInt(arguments[3]);
    try (Lake lake = Lake.open(Path.of(arguments[0]))) {
      Table table = lake.table(arguments[1]);
      System.out.println("ready");
      for (int a = 0; a < appends; a++) {
        try (Append append = table.append()) {
          for (int i = 0; i < 10; i++) {
            append.add(first + a, i);
          }
          long version = append.commit().versions().get(table.id());
          System.out.println("committed " + version + " " + (first + a));
        }
      }
    }
  }
}
