#! python@3.8 -> python@3.13
import collections
import sys

try:
    #: guarded collections.Mapping
    from collections import Mapping
except ImportError:
    from collections.abc import Mapping

try:
    from collections.abc import Sequence
except ImportError:
    #: guarded collections.Sequence
    from collections import Sequence

try:
    #: removed collections.MutableSet
    from collections import MutableSet
except ImportError:
    raise

try:
    #: removed collections.Hashable
    from collections import Hashable
except ValueError:
    Hashable = None

try:
    #: guarded collections.Container
    from collections import Container
except Exception:
    Container = None

try:
    #: removed collections.Generator
    made = collections.Generator
except Exception:
    made = None

if sys.version_info >= (3, 10):
    from collections.abc import Iterable
else:
    #: guarded collections.Iterable
    from collections import Iterable

if sys.version_info[0] >= 3:
    #: removed collections.Sized
    from collections import Sized
else:
    #: guarded collections.Set
    from collections import Set


def early():
    if sys.version_info < (3, 10):
        #: guarded collections.Iterator
        return collections.Iterator
    return collections.abc.Iterator


def early_other():
    if sys.version_info >= (3, 10):
        return None
    #: guarded collections.Iterator
    return collections.Iterator


def feature():
    if hasattr(collections, "Container"):
        #: guarded collections.Container
        return collections.Container
    try:
        #: guarded collections.Generator
        return collections.Generator
    except AttributeError:
        return None


try:
    #: removed imp
    import imp as loader
except ImportError:
    #: removed asyncore
    import asyncore as loader


#: guarded collections.Mapping
print(isinstance({}, Mapping), Sequence, Iterable)
#: guarded collections.Awaitable
value = collections.Awaitable if sys.version_info < (3, 10) else None

if (3, 0) < sys.version_info < (3, 3):
    raise RuntimeError("too odd a Python")

#: removed collections.Coroutine
last = collections.Coroutine
