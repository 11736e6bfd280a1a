package org.ysteron.internal.compute;

import org.ysteron.data.Types;
import org.ysteron.internal.text.Characters;

/** POSITION and CHAR_LENGTH. */
final class TextCount extends Kernel {
  private final Kernel what;
  private final Kernel of;

  /** {@code what} is null for the length. */
  TextCount(Kernel what, Kernel of) {
    super(Types.INTEGER);
    this.what = what;
    this.of = of;
  }

  @Override
  public Held eval(Rows rows) {
    Held in = of.eval(rows);
    Held sought = what == null ? in : what.eval(rows);
    out.begin(rows, Held.Form.LONGS, in, sought);
    for (int j = 0; j < rows.count(); j++) {
      int i = rows.selected()[j];
      if (!out.isNull(i)) {
        out.longs[i] =
            what == null
                ? Characters.count(in.data, in.starts[i], in.lengths[i])
                : position(in, sought, i);
      }
    }
    return out;
  }

  private static long position(Held in, Held sought, int i) {
    int start = in.starts[i];
    int at =
        Characters.find(
            in.data,
            start,
            start + in.lengths[i],
            sought.data,
            sought.starts[i],
            sought.lengths[i]);
    return at < 0 ? 0 : Characters.count(in.data, start, at - start) + 1L;
  }
}
