"""Runs under a real interpreter in a throw-away folder: the names of each module on standard input, null where it fails.

Standard input: module → names to try where the module answers for names that it does not list (``__getattr__``).

Only used while knowledge is built, and when a person asked for it. Works from Python 2.7 on.
"""

import importlib
import json
import os
import sys
import warnings

warnings.simplefilter("ignore")
_OUT = os.dup(1)
os.dup2(2, 1)  # what a library prints while it is imported does not belong to the answer


def names_of(path, tried):
    try:
        module = importlib.import_module(path)
    except BaseException:  # a library may do anything while it is imported; the answer is that it cannot be
        return None
    found = set(dir(module))
    found.update(getattr(module, "__dict__", {}))
    if "__getattr__" in getattr(module, "__dict__", {}):
        found = set(name for name in found if answers(module, name))
        found.update(name for name in tried if answers(module, name))
    return sorted(name for name in found if isinstance(name, str))


def answers(module, name):
    try:
        getattr(module, name)
    except ImportError as error:
        # another package that is missing here says nothing of the name; a library that refuses a name gives none
        wanted = getattr(error, "name", None)
        return bool(wanted) and wanted.split(".")[0] != module.__name__.split(".")[0]
    except BaseException:  # the module may raise whatever it likes for a name that went
        return False
    return True


def main():
    answer = dict((path, names_of(path, tried)) for path, tried in json.load(sys.stdin).items())
    with os.fdopen(_OUT, "w") as out:
        out.write(json.dumps(answer))
        out.flush()
    os._exit(0)


main()
