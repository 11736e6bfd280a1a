package org.ysteron.internal.tree;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;
import org.ysteron.internal.bytes.ByteIn;
import org.ysteron.internal.bytes.ByteOut;

class ByteCodingTest {
  @Property(tries = 300)
  void packedNumbersComeBack(@ForAll long[] values, @ForAll long before) {
    byte[] bytes = new ByteOut().signed(before).packed(values, values.length).u8(7).toByteArray();
    ByteIn in = new ByteIn(bytes);
    assertThat(in.signed()).isEqualTo(before);
    assertThat(in.packed(values.length)).isEqualTo(values);
    assertThat(in.u8()).isEqualTo(7);
    assertThat(in.remaining()).isZero();
  }

  @Property(tries = 100)
  void smallPackedNumbersComeBack(@ForAll byte[] small) {
    long[] values = new long[small.length];
    for (int i = 0; i < small.length; i++) {
      values[i] = small[i];
    }
    byte[] bytes = new ByteOut().packed(values, values.length).toByteArray();
    assertThat(new ByteIn(bytes).packed(values.length)).isEqualTo(values);
    assertThat(bytes.length).isLessThanOrEqualTo(12 + values.length);
  }

  @Test
  void bytesThatEndEarlyAreDamage() {
    byte[] bytes = new ByteOut().packed(new long[] {1, 100, 1000}, 3).toByteArray();
    byte[] cut = java.util.Arrays.copyOf(bytes, bytes.length - 1);
    assertThatThrownBy(() -> new ByteIn(cut).packed(3)).isInstanceOf(DamagedException.class);
    byte[] huge = new ByteOut().varint(Long.MAX_VALUE).toByteArray();
    assertThatThrownBy(() -> new ByteIn(huge).sized()).isInstanceOf(DamagedException.class);
    assertThatThrownBy(() -> new ByteIn(huge).zstd()).isInstanceOf(DamagedException.class);
  }
}
