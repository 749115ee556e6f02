//! java@8->java@17
package harbour;

import static java.lang.System.exit;
//: removed java.util.jar.Pack200
import java.util.jar.Pack200;
import java.util.*;
//: removed javax.xml.bind
import javax.xml.bind.*;
//: removed javax.xml.bind.annotation.XmlRootElement
import javax.xml.bind.annotation.XmlRootElement;
//: removed org.omg.CORBA.ORB
import org.omg.CORBA.ORB;
import javax.annotation.Nullable;

//: removed javax.xml.bind.annotation.XmlRootElement
@XmlRootElement
//: deprecated java.lang.SecurityManager
class Harbour extends SecurityManager implements Runnable {
  private final Thread tug = new Thread(this);
  //: removed javax.xml.bind.JAXBContext
  private JAXBContext papers;
  @Nullable private Date due;

  //: removed java.lang.SecurityManager.checkMemberAccess
  @Override public void checkMemberAccess(Class<?> held, int which) {}

  @Override public void run() {
    papers.createMarshaller();
    //: removed java.lang.Thread.destroy
    tug.destroy();
    //: reshaped java.lang.Thread.stop(1 argument)
    //: deprecated java.lang.Thread.stop
    this.tug.stop(new Error());
    //: removed java.lang.Thread.destroy
    Thread.currentThread().destroy();
    //: removed java.lang.Runtime.runFinalizersOnExit
    Runtime.runFinalizersOnExit(true);
    //: removed java.lang.SecurityManager.checkAwtEventQueueAccess
    checkAwtEventQueueAccess();
    //: deprecated new java.lang.Integer
    List<Integer> weights = new ArrayList<>(Arrays.asList(new Integer(3)));
    for (Thread other : fleet()) {
      //: removed java.lang.Thread.destroy
      other.destroy();
      //: deprecated java.lang.Thread.suspend
      other.suspend();
    }
    Buoy destroy = new Buoy();
    destroy.destroy();
    //: removed syntax.yield_call
    yield();
    //: removed syntax.yield_call
    yield(tug.getName());
    try {
      //: removed javax.xml.bind.JAXB
      Class.forName("javax.xml.bind.JAXB");
    } catch (ClassNotFoundException missing) {
      exit(1);
    }
    var quay = new Object() { int length = 3; };
    //: removed java.util.jar.Pack200
    Pack200.Packer packer = null;
    java.util.function.Function<String, String> same = String::trim;
    //: removed java.lang.Runtime.runFinalizersOnExit
    java.util.function.Consumer<Boolean> last = Runtime::runFinalizersOnExit;
    //: deprecated java.lang.String.finalize
    "x".finalize();
  }

  private Thread[] fleet() { return new Thread[0]; }
  private static void yield(String... names) {}
  int depth(int berth) { return switch (berth) { case 1: yield (3); default: yield 4; }; }
  //: removed syntax.record_type
  static class record {}
  static class Buoy { void destroy() {} }
  static class Error extends Throwable {}
  <Thread> Thread lent(Thread borrowed) { return borrowed; }
}
