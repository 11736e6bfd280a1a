package org.ysteron.sql;

import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.ysteron.LakeView;
import org.ysteron.data.Query;

/** Carries queries out for {@link LakeView#sql}. Thread-safe. */
public final class SqlEngine implements LakeView.SqlEngine {
  @Override
  public Query query(LakeView lake, String text, List<@Nullable Object> parameters) {
    return SqlQuery.of(lake, Optional.empty(), text, parameters);
  }
}
