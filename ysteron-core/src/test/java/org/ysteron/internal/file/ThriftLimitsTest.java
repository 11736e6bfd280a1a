package org.ysteron.internal.file;

import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Arrays;
import org.junit.jupiter.api.Test;
import org.ysteron.error.DamagedException;

class ThriftLimitsTest {
  private static byte[] bytes(int... values) {
    byte[] bytes = new byte[values.length];
    for (int i = 0; i < values.length; i++) {
      bytes[i] = (byte) values[i];
    }
    return bytes;
  }

  @Test
  void aStructOfWhatThereIsPasses() {
    // a number, a text of two bytes, a list of two booleans, a struct with a boolean
    byte[] struct = bytes(0x15, 7, 0x18, 2, 'a', 'b', 0x19, 0x21, 1, 2, 0x1c, 0x11, 0, 0);
    assertThatCode(() -> ThriftLimits.check(struct)).doesNotThrowAnyException();
  }

  @Test
  void claimsBeyondTheBytesAreRefused() {
    for (byte[] struct :
        new byte[][] {
          bytes(0x19, 0xf1, 0xff, 0xff, 0xff, 0x7f, 0),
          bytes(0x18, 0xff, 0xff, 0xff, 0xff, 0x07, 'a'),
          bytes(0x1b, 0x80, 0x80, 0x04, 0x55, 0),
          bytes(0x15, 0x80),
          bytes(0x1e, 0),
          bytes()
        }) {
      assertThatThrownBy(() -> ThriftLimits.check(struct)).isInstanceOf(DamagedException.class);
    }
  }

  @Test
  void listsInListsAreNoDeeperThanStructs() {
    byte[] lists = new byte[200_000];
    Arrays.fill(lists, (byte) 0x19);
    assertThatThrownBy(() -> ThriftLimits.check(lists))
        .isInstanceOf(DamagedException.class)
        .hasMessageContaining("nests too deep");
  }
}
