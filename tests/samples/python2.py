#! python@2.7 -> python@3.13
#: removed ConfigParser
import ConfigParser
#: removed urllib2
import urllib2
#: removed StringIO.StringIO
from StringIO import StringIO

#: removed syntax.print_statement
print "one", 2
#: removed syntax.old_octal
mode = 0755
zero = 0
#: removed syntax.long_integer
big = 10L
#: removed syntax.ur_string
text = ur"x"
#: removed syntax.backticks
shown = `big`
#: removed syntax.not_equal_sign
different = big <> 3
#: removed syntax.exec_statement
exec "x = 1"
#: removed syntax.tuple_parameter
first = lambda (a, b): a
#: removed syntax.tuple_parameter
def taken(x, (y, z)=(1, 2)):
    return y
for (a, b) in []:
    pass
#: removed unicode
u = unicode("a")
#: removed xrange
for i in xrange(3):
    pass
try:
    #: removed urllib2.urlopen
    urllib2.urlopen("x")
#: removed syntax.except_comma
except ValueError, error:
    #: removed syntax.raise_comma
    raise KeyError, "x"
try:
    pass
except (ValueError, KeyError):
    pass


def own(unicode):
    return unicode("a")
