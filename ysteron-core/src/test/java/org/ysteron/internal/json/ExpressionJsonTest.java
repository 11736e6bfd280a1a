package org.ysteron.internal.json;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.ysteron.data.Json;
import org.ysteron.data.Schema;
import org.ysteron.error.DamagedException;
import org.ysteron.expr.Condition;
import org.ysteron.expr.Expression;
import org.ysteron.internal.evaluate.RandomExpressions;

class ExpressionJsonTest {
  private static final Schema SCHEMA = RandomExpressions.SCHEMA;

  @Test
  void conditionsComeBackFromJson() {
    for (int seed = 0; seed < 3000; seed++) {
      Condition condition =
          new RandomExpressions(new Random(seed)).condition(seed % 4).simplified();
      String json = Json.write(ConditionJson.toJson(condition, SCHEMA));
      Condition read = ConditionJson.fromJson((Map<?, ?>) Json.parse(json), SCHEMA);
      assertThat(Json.write(ConditionJson.toJson(read, SCHEMA)))
          .as("seed %d", seed)
          .isEqualTo(json);
    }
  }

  @Test
  void expressionsComeBackFromJson() {
    for (int seed = 0; seed < 3000; seed++) {
      RandomExpressions random = new RandomExpressions(new Random(seed));
      Expression expression = random.value(seed % 2 == 0 ? "number" : "text", seed % 4);
      String json = Json.write(ExpressionJson.toJson(expression, SCHEMA));
      Expression read = ExpressionJson.fromJson(Json.parse(json), SCHEMA);
      assertThat(Json.write(ExpressionJson.toJson(read, SCHEMA)))
          .as("seed %d", seed)
          .isEqualTo(json);
    }
  }

  @Test
  void whatIsNotKnownIsSaid() {
    for (String json :
        new String[] {
          "{\"left\":{\"call\":\"spin\",\"of\":[]},\"is\":\"=\",\"right\":{\"value\":null}}",
          "{\"left\":{\"whirl\":1},\"is\":\"=\",\"right\":{\"value\":null}}",
          "{\"left\":{\"value\":1,\"type\":\"MONEY\"},\"is\":\"=\",\"right\":{\"value\":null}}",
          "{\"true\":{\"case\":7}}"
        }) {
      assertThatThrownBy(() -> ConditionJson.fromJson((Map<?, ?>) Json.parse(json), SCHEMA))
          .as(json)
          .isInstanceOf(DamagedException.class);
    }
  }
}
