package org.ysteron.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.ysteron.Alter;
import org.ysteron.Lake;
import org.ysteron.data.Field;
import org.ysteron.data.Json;
import org.ysteron.data.Types;
import org.ysteron.expr.Condition;
import org.ysteron.option.Alteration.Place;
import org.ysteron.sql.SqlSession;

/** The tool, SQL and Java alter a table to the same bytes. */
class OneGrammarTest {
  private static final String COLUMNS =
      "id BIGINT NOT NULL, gauge VARCHAR(8) DEFAULT 'ORR', level INTEGER,"
          + " place ROW(depth INTEGER, name VARCHAR)";

  private static final List<String> ACTIONS =
      List.of(
          "ADD COLUMN tags VARCHAR ARRAY FIRST",
          "ADD COLUMN place.wet BOOLEAN BEFORE name",
          "RENAME COLUMN level TO level_cm",
          "ALTER COLUMN level_cm SET DATA TYPE BIGINT",
          "ALTER COLUMN place.depth SET COMMENT 'below ''datum'''",
          "ALTER COLUMN gauge SET NOT NULL",
          "ALTER COLUMN gauge DROP DEFAULT",
          "MOVE COLUMN gauge AFTER level_cm",
          "ADD CONSTRAINT low CHECK (level_cm < 900)",
          "ADD PRIMARY KEY (id)",
          "DROP COLUMN tags");

  @TempDir private Path directory;

  private String lake(String name) {
    String lake = directory.resolve(name).toString();
    Tool.run("create-lake", lake);
    Tool.Answer made =
        new Tool(Path.of(lake))
            .on("create-table", "tide.x", COLUMNS, "--partition", "hash id into 4");
    assertThat(made.code()).as("%s", made).isZero();
    return lake;
  }

  /** What a worker gets to write rows, but for what differs from table to table. */
  private static Map<String, Object> form(String lake) {
    try (Lake opened = Lake.open(Path.of(lake))) {
      byte[] bytes = opened.now().writeTask("tide.x").toBytes();
      Map<String, Object> form = new TreeMap<>();
      ((Map<?, ?>) Json.parse(new String(bytes, StandardCharsets.UTF_8)))
          .forEach((name, value) -> form.put((String) name, Json.write(value)));
      form.keySet().removeAll(List.of("table", "now"));
      return form;
    }
  }

  @Test
  void schemasAndLayoutsAreTheSameBytes() {
    List<Map<String, Object>> forms = new ArrayList<>();
    String byTool = lake("tool");
    String bySql = lake("sql");
    String byJava = lake("java");
    for (String action : ACTIONS) {
      Tool.Answer answer = new Tool(Path.of(byTool)).on("alter", "tide.x", action);
      assertThat(answer.code()).as("%s", answer).isZero();
    }
    try (Lake opened = Lake.open(Path.of(bySql));
        SqlSession session = new SqlSession(opened)) {
      ACTIONS.forEach(action -> session.execute("ALTER TABLE tide.x " + action, List.of()));
    }
    try (Lake opened = Lake.open(Path.of(byJava))) {
      alterations(opened).forEach(Alter::run);
    }
    List.of(byTool, bySql, byJava).forEach(lake -> forms.add(form(lake)));

    assertThat(forms.get(1)).isEqualTo(forms.get(0));
    assertThat(forms.get(2)).isEqualTo(forms.get(0));
    assertThat(forms.get(0).get("schema").toString()).contains("below 'datum'", "level_cm", "low");
  }

  /** The actions, each when it is asked for. */
  private static Iterable<Alter> alterations(Lake lake) {
    List<Alter> all = new ArrayList<>();
    all.add(alter(lake).add(Field.of("tags", Types.listOf(Types.text())), Place.FIRST));
    all.add(alter(lake).addIn("place", Field.of("wet", Types.BOOLEAN), Place.before("name")));
    all.add(alter(lake).rename("level", "level_cm"));
    all.add(alter(lake).widen("level_cm", Types.BIGINT));
    all.add(alter(lake).comment("place.depth", "below 'datum'"));
    all.add(alter(lake).notNull("gauge"));
    all.add(alter(lake).dropDefault("gauge"));
    all.add(alter(lake).move("gauge", Place.after("level_cm")));
    all.add(alter(lake).check("low", Condition.column("level_cm").lessThan(900)));
    all.add(alter(lake).key("id"));
    all.add(alter(lake).drop("tags"));
    return all;
  }

  private static Alter alter(Lake lake) {
    return lake.table("tide.x").alter();
  }
}
