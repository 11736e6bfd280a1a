package org.ysteron.cli;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.ysteron.history.ChangeCounts;
import org.ysteron.history.ChangeSummary;
import org.ysteron.history.Changes;

/** A summary of changes as members of a JSON object. */
final class SummaryJson {
  private SummaryJson() {}

  static Map<String, Object> of(Changes changes, ChangeSummary summary) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("from", changes.from().version());
    json.put("to", changes.to().version());
    json.putAll(counts(summary.counts()));
    json.put("unchanged", summary.counts().same());
    List<Object> columns = new ArrayList<>();
    summary.columns().forEach(column -> columns.add(column(column)));
    json.put("columns", columns);
    List<Object> partitions = new ArrayList<>();
    summary
        .partitions()
        .forEach(
            (name, counts) -> {
              Map<String, Object> one = new LinkedHashMap<>();
              one.put("partition", name);
              one.putAll(counts(counts));
              partitions.add(one);
            });
    json.put("partitions", partitions);
    return json;
  }

  private static Map<String, Object> counts(ChangeCounts counts) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("inserted", counts.inserted());
    json.put("deleted", counts.deleted());
    json.put("updated", counts.updated());
    return json;
  }

  private static Map<String, Object> column(ChangeSummary.OfColumn column) {
    Map<String, Object> json = new LinkedHashMap<>();
    json.put("column", column.column());
    json.put("rows", column.differing());
    json.put("to_null", column.toNull());
    json.put("from_null", column.fromNull());
    column
        .numbers()
        .ifPresent(
            numbers -> {
              json.put("sum_before", numbers.sumBefore());
              json.put("sum_after", numbers.sumAfter());
              json.put("mean_before", numbers.meanBefore());
              json.put("mean_after", numbers.meanAfter());
              json.put("least_change", numbers.least());
              json.put("greatest_change", numbers.greatest());
            });
    column
        .times()
        .ifPresent(
            times -> {
              json.put("least_change", times.least());
              json.put("greatest_change", times.greatest());
            });
    return json;
  }
}
