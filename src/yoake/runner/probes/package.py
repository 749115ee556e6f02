"""Runs under a real interpreter in a throw-away folder: the names of each module on standard input, null where it fails.

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


def names_of(path):
    try:
        module = importlib.import_module(path)
    except BaseException:  # a library may do anything while it is imported; the answer is that it cannot be
        return None
    found = set(dir(module))
    found.update(getattr(module, "__dict__", {}))
    return sorted(name for name in found if isinstance(name, str))


def main():
    answer = dict((path, names_of(path)) for path in json.load(sys.stdin))
    with os.fdopen(_OUT, "w") as out:
        out.write(json.dumps(answer))
        out.flush()
    os._exit(0)


main()
