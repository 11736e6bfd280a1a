package org.ysteron;

import static org.assertj.core.api.Assertions.assertThat;
import static org.ysteron.expr.Condition.column;

import java.util.Collections;
import java.util.List;
import java.util.Random;
import org.ysteron.data.Field;
import org.ysteron.data.Row;
import org.ysteron.data.Schema;
import org.ysteron.data.Type;
import org.ysteron.data.Types;
import org.ysteron.error.ConflictException;
import org.ysteron.error.InvalidInputException;
import org.ysteron.error.NotFoundException;
import org.ysteron.expr.Condition;
import org.ysteron.option.Alteration.Place;
import org.ysteron.option.LayoutPlan;
import org.ysteron.report.UnknownOutcomeException;
import org.ysteron.store.StoreException;

/**
 * Somebody who alters the tables of a simulation while others write. The columns of the model stay;
 * others come and go: {@code g}, by which appends grow the table and which holds a row's key or
 * nothing, and those with a name in {@code d}, which hold their default wherever they are.
 */
final class SimulatedEvolution {
  static final long DEFAULT = 7;

  private static final Type.Struct NESTED =
      (Type.Struct)
          Types.struct(Field.of("x", Types.INTEGER), Field.of("y", Types.listOf(Types.INTEGER)));
  private static final Schema WITH_NESTED =
      Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT), Field.of("s", NESTED));

  private final Random random;

  SimulatedEvolution(Random random) {
    this.random = random;
  }

  /** A row with a column that its table may not have. */
  static Row growing(int key) {
    if (key % 3 == 0) {
      Row nested = Row.of(NESTED, key, Collections.nCopies(key % 4, key));
      return Row.of(WITH_NESTED.struct(), key, (long) key, nested);
    }
    Type type = key % 2 == 0 ? Types.INTEGER : Types.BIGINT;
    Schema schema =
        Schema.of(Field.of("k", Types.INTEGER), Field.of("v", Types.BIGINT), Field.of("g", type));
    Object grown = type == Types.INTEGER ? (Object) key : (Object) (long) key;
    return Row.of(schema.struct(), key, (long) key, grown);
  }

  /** Does one thing to one table. */
  void round(SimulatedActors.Actor actor, Lake lake) {
    String name = random.nextInt(3) == 0 ? "t.b" : "t.a";
    try {
      if (random.nextInt(4) == 0) {
        SimulatedKeys.round(actor, lake, random);
        return;
      }
      Table table = lake.table(name);
      if (random.nextInt(5) == 0) {
        actor.tell("rewrites " + name);
        Rewrite rewrite = table.rewrite();
        rewrite = random.nextBoolean() ? rewrite.ofOlderLayouts() : rewrite;
        int low = random.nextInt(SimulatedWork.KEYS);
        rewrite.where(column("k").between(low, low + 5)).run();
        return;
      }
      Alter alter = table.alter();
      for (int i = random.nextInt(3); i >= 0; i--) {
        alter = one(alter, table.schema());
      }
      alter.run();
      actor.tell("altered " + name + " to " + table.schema().struct());
    } catch (UnknownOutcomeException
        | StoreException
        | ConflictException
        | InvalidInputException
        | NotFoundException e) {
      actor.tell("could not alter " + name + ": " + e.getMessage());
    }
  }

  private Object standard() {
    return random.nextBoolean() ? (int) DEFAULT : Computed.later((int) DEFAULT);
  }

  private Alter one(Alter alter, Schema schema) {
    String other = schema.columns().get(random.nextInt(schema.columns().size())).name();
    boolean extra = !other.equals("k") && !other.equals("v");
    String dated = "d" + random.nextInt(4);
    return switch (random.nextInt(10)) {
      case 0, 1 ->
          alter.add(Field.of(dated, Types.INTEGER).withDefault(standard()), Place.after("v"));
      case 2 -> extra ? alter.drop(other) : alter;
      case 3 -> other.startsWith("d") ? alter.rename(other, dated + "x") : alter;
      case 4 -> extra ? widened(alter, other) : alter;
      case 5 -> alter.notNull("v");
      case 6 -> alter.nullable("v");
      case 7 -> alter.check("c" + random.nextInt(2), below(bound()));
      case 8 -> alter.dropCheck("c" + random.nextInt(2));
      default -> alter.layout(plan(random));
    };
  }

  private static Alter widened(Alter alter, String column) {
    return column.equals("s")
        ? alter.widen("s.x", Types.BIGINT).addIn("s", Field.of("z", Types.text()), Place.LAST)
        : alter.widen(column, Types.decimal(25, 2));
  }

  /** Keys of appends go up; some come behind it. */
  private int bound() {
    return 1000 + random.nextInt(500);
  }

  static LayoutPlan plan(Random random) {
    LayoutPlan plan = LayoutPlan.none();
    for (String rule :
        List.of("hash k into 3", "range k every 4", "range v at 0, 20", "list k of (1, 2), (7)")) {
      plan = random.nextInt(3) == 0 ? plan.rule(rule) : plan;
    }
    return switch (random.nextInt(4)) {
      case 0 -> plan.sortedBy("v descending", "k");
      case 1 -> plan.along("v", "k");
      case 2 -> plan.along("k", "v at -5, 0, 7, 30");
      default -> plan;
    };
  }

  /** What the columns that come and go hold. */
  static void check(Row row) {
    for (Field field : row.fields()) {
      Object value = row.get(field.name());
      if (field.name().equals("g") && value != null) {
        assertThat(((Number) value).intValue()).as("%s", row).isEqualTo(row.get("k"));
      }
      if (field.name().equals("s") && value instanceof Row nested) {
        int key = (Integer) row.get("k");
        assertThat(((Number) nested.get("x")).intValue()).as("%s", row).isEqualTo(key);
        assertThat(nested.get("y")).isEqualTo(Collections.nCopies(key % 4, key));
      }
      if (field.name().startsWith("d")) {
        assertThat(((Number) value).longValue()).as("%s", row).isEqualTo(DEFAULT);
      }
    }
  }

  /** A check of a key, of every other bound one that computes. */
  private static Condition below(int bound) {
    return bound % 2 == 0 ? column("k").lessThan(bound) : column("k").plus(1).atMost(bound);
  }
}
