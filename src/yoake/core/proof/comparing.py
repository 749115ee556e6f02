"""The same tests on two sides, test by test (DESIGN 4.9)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import Final

from yoake.core.values.runs import WHOLE, Compared, Run, TestOutcome, TestResult, Verdict

_UNLOADED: Final = "unittest.loader._FailedTest."
"""Begins the name under which unittest tells of a module that cannot be imported."""


def compare(old: Sequence[Run], new: Sequence[Run]) -> tuple[Compared, ...]:
    """Tests of the runs of two sides, repeats included, in the order of their names."""
    before, after = outcomes_of(old), outcomes_of(new)
    notes = _notes([*old, *new])
    for failed, missing in _fell_with(before, after).items():
        after.update(dict.fromkeys(missing, ("failed",)))
        notes.update(dict.fromkeys(missing, notes.get(failed, "")))
        del after[failed]
    return tuple(
        Compared(
            name,
            _shown(before.get(name, ())),
            _shown(after.get(name, ())),
            verdict(before.get(name, ()), after.get(name, ())),
            notes.get(name, ""),
        )
        for name in sorted({*before, *after})
    )


def _fell_with(
    before: Mapping[str, Sequence[TestOutcome]], after: Mapping[str, Sequence[TestOutcome]]
) -> dict[str, list[str]]:
    """What failed as a whole on the new side → tests of the old side that were never reached for it: a module that cannot be imported, or
    the command itself."""
    missing = [name for name in before if name not in after]
    found = {}
    for failed, outcomes in after.items():
        if failed not in before and set(outcomes) == {"failed"}:
            module = failed.removeprefix(_UNLOADED)
            held = [n for n in missing if failed == WHOLE or n.startswith((f"{module}.", f"{module}::"))]
            if held:
                found[failed] = held
    return found


def outcomes_of(runs: Iterable[Run]) -> dict[str, tuple[TestOutcome, ...]]:
    """Test → its outcomes, one for each run. A command that tells of no test stands for one."""
    found: dict[str, list[TestOutcome]] = {}
    for run in runs:
        for name, outcome in _worst(run.tests or _as_one(run)).items():
            found.setdefault(name, []).append(outcome)
    return {name: tuple(outcomes) for name, outcomes in found.items()}


def verdict(old: Sequence[TestOutcome], new: Sequence[TestOutcome]) -> Verdict:
    """What two rows of outcomes say of one test. What is skipped is not run."""
    before, after = ([o for o in outcomes if o != "skipped"] for outcomes in (old, new))
    if len(set(before)) > 1 or len(set(after)) > 1:
        return "flaky"
    if not before and not after:
        return "both" if old and new else ("gone" if old else "new")
    if not before:
        return "new"
    if before[0] == "failed":
        return "broke before"
    if not after:
        return "gone"
    return "both" if after[0] == "passed" else "breaks"


def counted(tests: Iterable[Compared]) -> Counter[Verdict]:
    """Verdict → tests."""
    return Counter(test.verdict for test in tests)


def _as_one(run: Run) -> tuple[TestResult, ...]:
    """A command without tests of its own; nothing where it was never started."""
    if run.ended in ("passed", "failed"):
        return (TestResult(WHOLE, run.ended, run.said, run.seconds),)
    return ()


def _worst(tests: Iterable[TestResult]) -> dict[str, TestOutcome]:
    """Name → outcome; of several tests of one name (parameters without a name of their own) one that failed."""
    found: dict[str, TestOutcome] = {}
    for test in tests:
        if found.get(test.name) != "failed":
            found[test.name] = test.outcome if test.outcome != "skipped" or test.name not in found else found[test.name]
    return found


def _shown(outcomes: Sequence[TestOutcome]) -> str:
    return ", ".join(dict.fromkeys(outcomes))


def _notes(runs: Iterable[Run]) -> dict[str, str]:
    """Test → what went wrong, as the newest run with words says it."""
    return {test.name: test.note for run in runs for test in run.tests or _as_one(run) if test.note}
