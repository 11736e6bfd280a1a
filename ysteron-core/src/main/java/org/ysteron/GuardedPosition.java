package org.ysteron;

import java.util.List;
import java.util.Optional;
import org.ysteron.history.Changes;
import org.ysteron.history.ReaderPosition;
import org.ysteron.internal.transact.OpenTransaction;

/** A position that can be used as long as its transaction is open. */
record GuardedPosition(OpenTransaction open, ReaderPosition position) implements ReaderPosition {
  @Override
  public String name() {
    return position.name();
  }

  @Override
  public long entry() {
    return position.entry();
  }

  @Override
  public List<String> tables() {
    return open.inside(position::tables);
  }

  @Override
  public List<String> droppedTables() {
    return open.inside(position::droppedTables);
  }

  @Override
  public boolean isEmpty() {
    return open.inside(position::isEmpty);
  }

  @Override
  public Changes changes(String table) {
    return open.inside(() -> position.changes(table));
  }

  @Override
  public void move() {
    open.inside(
        () -> {
          position.move();
          return Optional.empty();
        });
  }
}
