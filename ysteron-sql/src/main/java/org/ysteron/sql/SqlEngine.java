package org.ysteron.sql;

import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeHandle;
import org.ysteron.LakeView;
import org.ysteron.data.Query;
import org.ysteron.report.WriteResult;

/** Carries SQL out for {@link LakeView#sql} and {@link LakeHandle#execute}. Thread-safe. */
public final class SqlEngine implements LakeView.SqlEngine, LakeHandle.SqlStatements {
  @Override
  public Query query(LakeView lake, String text, List<@Nullable Object> parameters) {
    return SqlQuery.of(lake, Optional.empty(), text, parameters);
  }

  @Override
  public WriteResult execute(LakeHandle lake, String text, List<@Nullable Object> parameters) {
    try (SqlSession session = new SqlSession(lake)) {
      return session.change(text, parameters);
    }
  }
}
