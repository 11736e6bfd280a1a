package org.ysteron.internal.work;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.OptionalLong;
import org.junit.jupiter.api.Test;
import org.ysteron.error.CancelledException;
import org.ysteron.progress.Progress;
import org.ysteron.progress.ProgressMonitor;

class WatchTest {
  private final List<Progress> told = new ArrayList<>();
  private boolean isCancelled;

  private final Watch watch =
      new Watch(
          new ProgressMonitor() {
            @Override
            public void progress(Progress progress) {
              told.add(progress);
            }

            @Override
            public boolean isCancelled() {
              return isCancelled;
            }
          });

  @Test
  void whatWasCommittedBeforeIsToldWithTheEnd() {
    Watch.Step step = watch.step("compact files", Progress.Unit.FILES, 7);
    assertThat(told)
        .containsExactly(new Progress("compact files", 0, OptionalLong.of(7), Progress.Unit.FILES));
    watch.committed(41);
    isCancelled = true;
    assertThatThrownBy(() -> step.add(1))
        .isInstanceOfSatisfying(
            CancelledException.class, e -> assertThat(e.lastEntry()).hasValue(41))
        .hasMessageContaining("up to entry 41");
    assertThatThrownBy(() -> watch.step("again", Progress.Unit.ROWS))
        .isInstanceOf(CancelledException.class);
    Watch.NONE.check();
  }
}
