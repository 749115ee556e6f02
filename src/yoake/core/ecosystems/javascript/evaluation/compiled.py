"""Functions that a compiler cut into steps at each ``await``, for runtimes that know no such word: they are followed to their end.

TypeScript hands ``__generator`` a function that returns [what to do, value] a step; Babel hands its regenerator one that notes on a
context where to go on, and returns what it waits for. Waiting takes no time here, so what was returned last is what has arrived.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Final

from yoake.core.contract.evaluation import UNKNOWN, CallSite, Evaluator, FunctionValue, Model, Native, Value

if TYPE_CHECKING:
    from yoake.core.ecosystems.javascript.evaluation.evaluator import JavaScriptEvaluator

_HELPERS: Final = re.compile(
    r"(?:^|\W|_)(?P<name>__awaiter|__generator|asyncToGenerator)\d?\W*(?:default\W*)?$|regenerator\w*\W.*\.(?P<step>mark|wrap|[mw])$",
    re.IGNORECASE | re.DOTALL,
)
_LONGEST: Final = 100  # letters of how a helper is written
_RETURNED: Final = 2  # TypeScript's sign of a step that ends the function; 4 waits


def helper_of(written: str) -> str:
    """Which helper a called expression is: ``awaits``, ``marks`` or ``steps``; empty for anything else."""
    found = _HELPERS.search(written) if len(written) < _LONGEST else None
    if found is None:
        return ""
    name = (found["name"] or found["step"]).lower()
    return {"__awaiter": "awaits", "__generator": "steps", "wrap": "steps", "w": "steps"}.get(name, "marks")


def helped(helper: str, given: Sequence[Value], this: Value, run: JavaScriptEvaluator, site: CallSite) -> Value:
    """What a helper gives: the function itself where it only marks one, else what the function comes to."""
    functions = [each for each in given if isinstance(each, FunctionValue)]
    if not functions:
        return UNKNOWN
    if helper == "marks":
        return functions[0]
    if helper == "awaits":
        return run.call(_bound(functions[-1], this), [], {}, site.place)
    steps = _Steps(run)
    returned = run.followed(_bound(functions[0], this), [steps])
    ends = [each[1] for each in returned if isinstance(each, list) and each[:1] == [_RETURNED] and len(each) > 1]
    return next((each for each in (*steps.ends, *ends) if each is not UNKNOWN and each is not None), UNKNOWN)


def _bound(function: FunctionValue, this: Value) -> FunctionValue:
    return replace(function, bound=this) if function.bound is None and this is not UNKNOWN else function


class _Steps(Model):
    """The state that is handed from step to step. ``ends``: values the function was told to end with."""

    def __init__(self, run: JavaScriptEvaluator) -> None:
        self._run = run
        self.ends: list[Value] = []

    def attribute(self, name: str, evaluator: Evaluator) -> Value:
        if name in ("sent", "v"):
            last = self._run.last_returned()
            if isinstance(last, list) and len(last) == 2 and isinstance(last[0], int):
                return Native(lambda _: last[1])  # TypeScript calls it
            return last
        if name == "trys":
            return []
        if name in ("abrupt", "a"):
            return Native(self._end)
        return UNKNOWN

    def _end(self, site: CallSite) -> Value:
        if site.get(0) in ("return", _RETURNED):
            self.ends.append(site.get(1))
        return UNKNOWN
