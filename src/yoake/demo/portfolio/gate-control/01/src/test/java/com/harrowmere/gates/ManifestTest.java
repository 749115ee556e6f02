package com.harrowmere.gates;

import static org.junit.Assert.assertTrue;

import org.junit.Test;

public class ManifestTest {
  @Test
  public void everyTicketIsListed() throws Exception {
    Manifest manifest = new Manifest();
    manifest.getTickets().add("HF-1204");
    assertTrue(manifest.toXml().contains("<ticket>HF-1204</ticket>"));
  }
}
