package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;

/** The tool, run in this process on one lake. */
record Tool(Path lake) {

  /** What a command has printed, and how it ended. */
  record Answer(int code, String out, String err) {}

  /** Runs a command as it stands there. */
  static Answer run(String... arguments) {
    StringWriter out = new StringWriter();
    StringWriter err = new StringWriter();
    int code = Main.run(new PrintWriter(out), new PrintWriter(err, true), arguments);
    return new Answer(code, out.toString(), err.toString());
  }

  /** Runs a command on the lake. */
  Answer on(String... arguments) {
    List<String> all = new ArrayList<>(List.of(arguments));
    all.add("--lake");
    all.add(lake.toString());
    return run(all.toArray(String[]::new));
  }

  /** What a command that succeeds prints. */
  String ok(String... arguments) {
    Answer answer = on(arguments);
    assertThat(answer.err()).isEmpty();
    assertThat(answer.code()).isZero();
    return answer.out();
  }
}
