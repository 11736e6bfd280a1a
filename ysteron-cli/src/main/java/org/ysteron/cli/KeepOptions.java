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
          "Keep versions superseded no longer ago than this, as in P7D, P3M or PT12H (ISO 8601).")
  private String span;

  @Option(
      names = "--keep-newest",
      paramLabel = "N",
      description = "Keep so many of the newest versions.")
  private Integer newest;

  @Option(
      names = "--keep-thinned",
      paramLabel = "RULES",
      description =
          "Keep the version that was current when a step of the calendar began, as in \"day P1M, week P1Y\": one each day of the last month, one each week of the last year.")
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
