#! python@3.8 -> python@3.13
import collections
import os.path
#: removed imp
import imp, sys
#: removed collections.Mapping
from collections import Mapping as M, OrderedDict
#: removed distutils.version.LooseVersion
from distutils.version import LooseVersion
#: removed unittest.makeSuite
from unittest import TestCase, makeSuite
import inspect as i
import collections.abc
import asyncio, datetime


#: removed asyncio.coroutine
@asyncio.coroutine
def old():
    #: removed collections.Callable
    return collections.Callable


class Case(TestCase):
    def test(self):
        #: removed unittest.case.TestCase.assertEquals
        self.assertEquals(1, 1)
        self.assertEqual(1, 1)
        self.helper()

    def helper(self):
        #: removed imp.load_source
        return imp.load_source("a", "b")


def shadow(imp, collections):
    collections.Mapping
    return imp.load_source


def local():
    collections = {}
    return collections.Mapping


#: removed inspect.getargspec
spec = i.getargspec(local)
fine = i.getfullargspec(local)
#: removed collections.Mapping
use = isinstance({}, M)
#: deprecated datetime.datetime.utcnow
now = datetime.datetime.utcnow()
#: removed collections.Sequence
[x for x in range(3) if isinstance(x, collections.Sequence)]
abc = collections.abc.Mapping
path = os.path.join("a", "b")
#: removed unittest.makeSuite
suite = makeSuite(Case)
#: removed distutils.version.LooseVersion
version = LooseVersion("1")
