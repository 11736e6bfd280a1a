package org.ysteron;

import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import org.ysteron.store.LocalStore;
import org.ysteron.store.ObjectStore;
import org.ysteron.task.LocatedBatch;
import org.ysteron.task.RowWriter;
import org.ysteron.task.ScanTask;
import org.ysteron.task.WriteTask;

/** Runs scan tasks and write tasks with nothing but a store, for {@link RemoteTest}. */
final class RemoteProcess {
  private RemoteProcess() {}

  /** Takes a directory; reads a task in base64 from each line, and the keys to write. */
  public static void main(String[] arguments) throws Exception {
    BufferedReader in =
        new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8));
    try (ObjectStore store = LocalStore.existing(Path.of(arguments[0]))) {
      for (String line = in.readLine(); line != null; line = in.readLine()) {
        String[] words = line.split(" ", -1);
        byte[] task = Base64.getDecoder().decode(words[1]);
        if (words[0].equals("scan")) {
          rows(ScanTask.of(task), store).forEach(System.out::println);
        } else {
          write(WriteTask.of(task), store, Integer.parseInt(words[2]), Integer.parseInt(words[3]));
        }
      }
    }
  }

  /** The rows of a task, each with its file, position and serial. */
  static List<String> rows(ScanTask task, ObjectStore store) {
    List<String> rows = new ArrayList<>();
    for (LocatedBatch batch : task.read(store)) {
      for (int i = 0; i < batch.rows().size(); i++) {
        rows.add(
            "row %d %d %d %s"
                .formatted(
                    task.fileNumber(),
                    batch.positions()[i],
                    batch.serials()[i],
                    batch.rows().row(i)));
      }
    }
    return rows;
  }

  private static void write(WriteTask task, ObjectStore store, int from, int to) {
    try (RowWriter writer = task.open(store, 2)) {
      for (int k = from; k < to; k++) {
        writer.add(k, 10L * k, "from elsewhere");
      }
      System.out.println("staged " + Base64.getEncoder().encodeToString(writer.finish().toBytes()));
    }
  }
}
