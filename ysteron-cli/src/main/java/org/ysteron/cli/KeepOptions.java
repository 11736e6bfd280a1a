package org.ysteron.cli;

import java.util.Optional;
import org.ysteron.option.Retention;
import picocli.CommandLine.Option;

/** Which versions are kept. */
final class KeepOptions {
  @Option(
      names = "--keep-for",
      paramLabel = "TIME",
      description =
          "Keep versions that were current within this time, such as P7D, P3M or PT12H (ISO 8601 duration).")
  private String span;

  @Option(
      names = "--keep-newest",
      paramLabel = "N",
      description = "Keep this many of the newest versions.")
  private Integer newest;

  @Option(
      names = "--keep-thinned",
      paramLabel = "RULES",
      description =
          "Keep the version that was current at the start of each calendar step, such as \"day P1M, week P1Y\": one for each day of the last month, and one for each week of the last year.")
  private String thinned;

  /** The rules that were given; empty for those of the settings. */
  Optional<Retention> rules() {
    if (span == null && newest == null && thinned == null) {
      return Optional.empty();
    }
    Retention rules = Retention.EVERYTHING;
    rules = span == null ? rules : rules.andFor(Retention.parseSpan(span));
    rules = newest == null ? rules : rules.andNewest(newest);
    for (Retention.Thinned rule : Retention.parseThinning(thinned == null ? "" : thinned)) {
      rules = rules.andOneEach(rule.each(), rule.span());
    }
    return Optional.of(rules);
  }
}
