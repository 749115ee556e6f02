"""Reads the weighbridge over a serial line."""
import ConfigParser
import Queue
import urllib2
from StringIO import StringIO

LIMIT = 0750


def read(text):
    parser = ConfigParser.SafeConfigParser()
    parser.readfp(StringIO(text))
    return parser.getint("bridge", "limit")


def heavier(loads, limit):
    return [name for name, load in loads.iteritems() if load > limit]


def show(loads):
    for name in sorted(loads):
        print "%s: %d" % (name, loads[name])


def ask(url):
    try:
        return unicode(urllib2.urlopen(url).read(), "utf-8")
    except urllib2.URLError, error:
        raise ValueError, "bridge does not answer: %s" % error


def waiting():
    return Queue.Queue()
