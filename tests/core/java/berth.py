"""Class files of a small class of our own, compiled once, so that no JDK is needed here::

package quay;
public class Berth extends java.util.ArrayList<String> {
  public static final int LENGTH = 3;
  @Deprecated(since = "2", forRemoval = true) public Thread tow(String line, int... knots) { return null; }
  public Thread tow(String line) { return null; }
  protected void moor() {}
  private void hide() {}
  void own() {}
  public interface Crane { Berth lift(); }
  private static class Bolt {}
}
"""

from __future__ import annotations

import base64
import zlib

_BERTH = (
    "eNqFUU1vEzEQfbOb3W1CSgKFQgqlUEpJORAJiVOrSm34ihT10EQ5wMlN3MRoY4PX26pH/hGckDjwA/hRiFmrooFG6kr2Wz/PvJl5/vX7x08AL/G0ggBhglIV"
    "EWLC0kdxIlq5U2lrz1px1lWZI8Q7Siu3SwibW4MEC4TK51yctfaldRO+7r4+eNt/R6AOYbFtdOaEdgOR5jLkKiGh1DYjSah1lZYH+fRI2r44SpkJnTklNJtd"
    "XzcVetzqOav0ePtDZ2uG7E+sFKNtLvxKfrJyKJwcERqHuXZqKgcqUyy3p7VxwilugLA8k32RwwpRpvSQS9MLVjs29lBOzYlIi06JsDmnlbmNlKbGWIaJKiYL"
    "zakmlHtqrIXLLTPnSf9auXNZfLcYqmdyO5RvVGFJxbv6vAgkVDtaS9tORZbJLME6e3jh/Ma+Sfl1SgUkeEKoz9y1rdCsFnnEIyT80DwhGiijwniNTwGqiPk/"
    "8vsiM6uMxBg9+w765hOu8x57MsAX1FBH6ENXmCtMC+jrf3El3EDx3eRVZ2aJM29luI3l97jD5xrunpcrNIK5GhGrNP621fC3uNxSzOkrV4clvO5dHbbAA933"
    "g67igcc1PPSDBN7Bx+zcBuNmXP4DCReaIA=="
)
_CRANE = (
    "eNo79W/XPgYGBlMGXnYGJkYGgcLSxEp9p9SikgwV56LEvFR2BhagaFZiWaJ+TmJeur5/UlZqcgkjA0tOZhqQ4tPQ9EFosWZk4ArOLy1KTnXLzEkFcsCieiDd"
    "jAw8nnl5qUXOOYnFxanF7AzcQGmETkYGVrB1bIwMjAzMDCDACLSYlYENyGJiYAeTHAycQJqLAaSGi4GHjRMAti4pHg=="
)

BERTH, CRANE = (zlib.decompress(base64.b64decode(packed)) for packed in (_BERTH, _CRANE))
