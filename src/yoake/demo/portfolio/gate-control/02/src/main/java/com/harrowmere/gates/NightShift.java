package com.harrowmere.gates;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.util.jar.JarInputStream;
import java.util.jar.Pack200;

/** Sends the day's classes to the gates over a slow line. */
final class NightShift {
  private NightShift() {}

  static byte[] packed(JarInputStream day) throws IOException {
    Pack200.Packer packer = Pack200.newPacker();
    packer.properties().put(Pack200.Packer.EFFORT, "9");
    ByteArrayOutputStream sent = new ByteArrayOutputStream();
    packer.pack(day, sent);
    return sent.toByteArray();
  }

  static void endOfShift() {
    Runtime.runFinalizersOnExit(true);
  }
}
