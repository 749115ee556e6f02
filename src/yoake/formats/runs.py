"""Runs and their tests as the command line writes them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final

from yoake.core.proof.comparing import counted
from yoake.core.values.coordinates import Lines, Releases
from yoake.core.values.runs import Run, RunOutcome, TestOutcome, TestResult, Verdict

_TITLES: Final[dict[Verdict, str]] = {
    "both": "alike on both sides",
    "breaks": "pass on the old side and fail on the new",
    "broke before": "fail on the old side already",
    "gone": "no longer run",
    "new": "newly run",
    "flaky": "answer differently when they are repeated",
}
_MOST: Final = 20


def run_json(outcome: RunOutcome) -> dict[str, Any]:
    """``tests`` beside each other, and the ``runs`` of both sides."""
    sides = [("old", run) for run in outcome.old] + [("new", run) for run in outcome.new]
    tests: list[dict[str, Any]]
    if outcome.new:
        tests = [
            {"name": t.name, "old": t.old, "new": t.new, "verdict": t.verdict, "note": t.note} for t in outcome.tests
        ]
    else:
        tests = [{"name": t.name, "outcome": t.outcome, "note": t.note} for t in outcome.old[-1].tests]
    return {"tests": tests, "runs": [_run_json(which, run) for which, run in sides]}


def _run_json(which: str, run: Run) -> dict[str, Any]:
    return {
        "side": which,
        "state": state_text(run.side.lines, run.side.releases),
        "command": list(run.command.words),
        "ended": run.ended,
        "code": run.code,
        "why": run.said,
        "seconds": run.seconds,
        "content": run.identity,
        "log": run.log,
        "installed": dict(sorted(run.installed.items())),
        "tests": len(run.tests),
    }


def state_text(lines: Lines, releases: Releases) -> list[str]:
    """Lines and releases as COORD@LINE."""
    return [f"{coordinate.short}@{line}" for coordinate, line in [*sorted(lines.items()), *sorted(releases.items())]]


def run_text(outcome: RunOutcome, folder: str) -> str:
    """The answer first, then what breaks, then how each run ended."""
    rows = []
    if outcome.new:
        tally = counted(outcome.tests)
        shown = [f"{tally[verdict]} {title}" for verdict, title in _TITLES.items() if tally[verdict]]
        rows.append(
            f"{len(outcome.tests)} tests: {', '.join(shown)}." if outcome.tests else "No test ran on either side."
        )
        broken = [t for t in outcome.tests if t.verdict == "breaks"]
        rows += [f"breaks: {t.name}{': ' + t.note if t.note else ''}" for t in broken[:_MOST]]
        if len(broken) > _MOST:
            rows.append(f"and {len(broken) - _MOST} more; --format json has all")
    else:
        tests = outcome.old[-1].tests
        failed = [t for t in tests if t.outcome == "failed"]
        rows.append(f"{len(tests)} tests, {len(failed)} failed.")
        rows += [f"failed: {t.name}{': ' + t.note if t.note else ''}" for t in failed[:_MOST]]
    for run in (*outcome.old, *outcome.new):
        how = run.said or (f"ended with {run.code}" if run.ended != "passed" else "passed")
        tests_of = f", {len(run.tests)} tests" if run.tests else ""
        rows.append(
            f"{run.side.label}: {' '.join(run.command.words)}: {how}{tests_of}, {run.seconds:.1f} s; {folder}/{run.log}"
        )
    return "\n".join(rows) + "\n"


def as_results(outcome: RunOutcome) -> Sequence[TestResult]:
    """For JUnit: with two sides a test fails that breaks, and what only failed before is left out."""
    if not outcome.new:
        return outcome.old[-1].tests
    found: dict[str, TestOutcome] = {"both": "passed", "breaks": "failed", "flaky": "skipped", "gone": "skipped"}
    return [TestResult(t.name, found[t.verdict], t.note) for t in outcome.tests if t.verdict in found]
