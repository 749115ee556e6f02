"""Writes how each unittest test of this process went, a line of JSON each, to the file that YOAKE_RESULTS names.

Loaded into the environment of a run by a .pth file; works on every Python from 2.7 on. Django's runner is unittest too.
"""

import json
import os
import sys
import time


def _install(path):
    try:
        import unittest.result as results
    except ImportError:
        return
    base = results.TestResult
    if getattr(base, "_yoake", False) or os.environ.setdefault("YOAKE_RESULTS_OF", str(os.getpid())) != str(os.getpid()):
        return  # a child of a parallel run: its results come to the parent
    base._yoake = True
    began = {}

    def tell(test, outcome, note=""):
        name = test.id() if hasattr(test, "id") else str(test)
        seconds = time.time() - began.get(name, time.time())
        row = {"name": name, "outcome": outcome, "note": note[:300], "seconds": seconds}
        with open(path, "a") as handle:
            handle.write(json.dumps(row) + "\n")

    def said(error):
        if isinstance(error, tuple) and len(error) > 1:
            kind = getattr(error[0], "__name__", str(error[0]))
            try:
                words = str(error[1])
            except Exception:
                words = ""
            rows = [row.strip() for row in words.split("\n") if row.strip()]
            if rows and rows[0].startswith("Failed to import test module"):
                return rows[-1]
            return kind + ": " + (rows[0] if rows else "")
        return str(error)

    def wrap(method, outcome, note):
        kept = getattr(base, method, None)
        if kept is None:
            return

        def told(self, test, *rest, **named):
            try:
                tell(test, outcome, note(rest))
            except Exception:
                pass  # what is told about a test must never break it
            return kept(self, test, *rest, **named)

        setattr(base, method, told)

    start = base.startTest

    def started(self, test):
        try:
            began[test.id()] = time.time()
        except Exception:
            pass
        return start(self, test)

    base.startTest = started
    wrap("addSuccess", "passed", lambda rest: "")
    wrap("addExpectedFailure", "passed", lambda rest: "")
    wrap("addError", "failed", lambda rest: said(rest[0]) if rest else "")
    wrap("addFailure", "failed", lambda rest: said(rest[0]) if rest else "")
    wrap("addUnexpectedSuccess", "failed", lambda rest: "passed, though it was expected to fail")
    wrap("addSkip", "skipped", lambda rest: str(rest[0]) if rest else "")
    kept = getattr(base, "addSubTest", None)
    if kept is not None:

        def sub(self, test, subtest, error):
            if error is not None:
                try:
                    tell(test, "failed", said(error))
                except Exception:
                    pass
            return kept(self, test, subtest, error)

        base.addSubTest = sub


if os.environ.get("YOAKE_RESULTS") and "pytest" not in " ".join(sys.argv[:1]):
    _install(os.environ["YOAKE_RESULTS"])
