package com.harrowmere.gates;

import javax.annotation.PostConstruct;
import javax.annotation.PreDestroy;

/** One gate on the quay: a motor in a thread of its own. */
public class Gate {
  private final String name;
  private final Thread motor;
  private volatile Integer opened = new Integer(0);

  public Gate(String name) {
    this.name = name;
    this.motor = new Thread(this::turn, "gate " + name);
  }

  @PostConstruct
  public void start() {
    motor.start();
  }

  @PreDestroy
  public void stop() {
    if (motor.isAlive()) {
      motor.stop(new IllegalStateException("gate " + name + " was closed"));
    }
  }

  private void turn() {
    while (!Thread.currentThread().isInterrupted()) {
      opened = new Integer(opened.intValue() + 1);
      Thread.yield();
    }
  }

  public int opened() {
    return opened;
  }

  @Override
  protected void finalize() throws Throwable {
    stop();
    super.finalize();
  }
}
