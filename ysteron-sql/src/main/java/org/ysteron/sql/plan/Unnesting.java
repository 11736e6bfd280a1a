package org.ysteron.sql.plan;

import java.util.ArrayList;
import java.util.List;
import org.apache.calcite.rel.core.Uncollect;
import org.ysteron.data.Type;
import org.ysteron.error.InvalidInputException;
import org.ysteron.expr.Expression;
import org.ysteron.sql.catalog.RelTypes;
import org.ysteron.sql.keep.Made;
import org.ysteron.sql.run.UnnestStep;

/** Makes steps of UNNEST. */
final class Unnesting {
  private Unnesting() {}

  /**
   * The fields of the input, then those of the elements.
   *
   * @param collections lists and maps, on the step of the input
   * @param keepsEmpty whether rows without elements stay
   */
  static Stage of(Uncollect rel, Stage input, List<Expression> collections, boolean keepsEmpty) {
    List<Expression> all = new ArrayList<>(input.fields());
    int inputs = all.size();
    all.addAll(collections);
    Stage whole = new Stage(input.step(), all).whole();
    List<Expression> lists = new ArrayList<>(whole.fields().subList(inputs, all.size()));
    List<Type> types = new ArrayList<>(whole.types());
    List<Boolean> flat = new ArrayList<>();
    int left = RelTypes.ofFields(rel).size() - (rel.withOrdinality ? 1 : 0);
    for (int c = 0; c < lists.size(); c++) {
      Type type = whole.types().get(inputs + c);
      int others = lists.size() - 1 - c;
      if (type instanceof Type.MapOf map) {
        types.add(map.key().type());
        types.add(map.value().type());
        flat.add(false);
        left -= 2;
      } else if (type instanceof Type.ListOf list) {
        boolean isFlat =
            list.element().type() instanceof Type.Struct struct
                && struct.fields().size() <= left - others
                && rel.getItemAliases().isEmpty();
        flat.add(isFlat);
        if (isFlat) {
          ((Type.Struct) list.element().type()).fields().forEach(field -> types.add(field.type()));
          left -= ((Type.Struct) list.element().type()).fields().size();
        } else {
          types.add(list.element().type());
          left--;
        }
      } else {
        throw new InvalidInputException(
            "UNNEST takes lists and maps; a value of %s is none.".formatted(type));
      }
    }
    if (rel.withOrdinality) {
      types.add(org.ysteron.data.Types.INTEGER);
    }
    Stage unnested =
        Stage.of(
            new UnnestStep(
                whole.step(), lists, flat, rel.withOrdinality, keepsEmpty, Made.schema(types)));
    List<Expression> fields = new ArrayList<>(unnested.fields().subList(0, inputs));
    fields.addAll(unnested.fields().subList(all.size(), types.size()));
    return new Stage(unnested.step(), fields);
  }
}
