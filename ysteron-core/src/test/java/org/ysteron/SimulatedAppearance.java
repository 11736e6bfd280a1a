package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.TreeMap;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;

/**
 * A table of a simulation that comes and goes: it is dropped, created, brought back or renamed.
 *
 * @param how 0 drops or creates, 1 drops or brings back, 2 renames
 */
record SimulatedAppearance(int how) implements SimulatedWork.Op {
  private static final String NAME = "t.c";
  private static final String OTHER = "t.d";

  @Override
  public String run(SimulatedWork.Tables tables) {
    throw new IllegalStateException("is done on a lake");
  }

  /** Does it on a lake; says what was done. */
  String run(LakeHandle lake) {
    try {
      return how == 2 ? renamed(lake) : droppedOrThere(lake);
    } catch (InvalidInputException taken) {
      throw new ConflictException(ConflictException.Kind.DUPLICATE_KEY, taken.getMessage());
    }
  }

  private String droppedOrThere(LakeHandle lake) {
    try {
      lake.dropTable(NAME);
      return "dropped";
    } catch (NotFoundException e) {
      if (how == 0) {
        lake.createTableIfAbsent(NAME, SimulatedWork.SCHEMA);
      } else if (!isBroughtBack(lake)) {
        lake.createTable(NAME, SimulatedWork.SCHEMA);
      }
      return "created";
    }
  }

  private static boolean isBroughtBack(LakeHandle lake) {
    try {
      assertThat(lake.bringBackTable(NAME).scan().count()).isZero();
      return true;
    } catch (NotFoundException e) {
      return false;
    }
  }

  private static String renamed(LakeHandle lake) {
    try {
      lake.renameTable(NAME, OTHER);
      return "renamed";
    } catch (NotFoundException e) {
      try {
        lake.renameTable(OTHER, NAME);
        return "renamed back";
      } catch (NotFoundException none) {
        throw new ConflictException(ConflictException.Kind.DUPLICATE_KEY, none.getMessage());
      }
    }
  }

  @Override
  public String apply(SimulatedWork.State state, SimulatedWork.Ids ids) {
    boolean was = state.tables.remove(NAME) != null;
    if (how < 2) {
      if (!was) {
        state.tables.put(NAME, new TreeMap<>());
      }
      return was ? "dropped" : "created";
    }
    if (!was && state.tables.remove(OTHER) == null) {
      throw new AssertionError("there was nothing to rename");
    }
    state.tables.put(was ? OTHER : NAME, new TreeMap<>());
    return was ? "renamed" : "renamed back";
  }
}
