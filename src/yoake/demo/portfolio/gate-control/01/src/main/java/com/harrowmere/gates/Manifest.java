package com.harrowmere.gates;

import java.io.StringWriter;
import java.util.ArrayList;
import java.util.List;
import javax.xml.bind.JAXBContext;
import javax.xml.bind.JAXBException;
import javax.xml.bind.Marshaller;
import javax.xml.bind.annotation.XmlElement;
import javax.xml.bind.annotation.XmlRootElement;

/** Who went aboard through one gate, as the harbour office wants it. */
@XmlRootElement(name = "manifest")
public class Manifest {
  private final List<String> tickets = new ArrayList<>();

  @XmlElement(name = "ticket")
  public List<String> getTickets() {
    return tickets;
  }

  public String toXml() throws JAXBException {
    Marshaller writer = JAXBContext.newInstance(Manifest.class).createMarshaller();
    StringWriter text = new StringWriter();
    writer.marshal(this, text);
    return text.toString();
  }
}
