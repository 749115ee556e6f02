"""Results of tests that ran on another machine: JUnit files of both sides with the commit that ran, kept as a run like any other."""

from __future__ import annotations

from yoake.context.context import Context
from yoake.core.proof.comparing import compare, counted
from yoake.core.values.coordinates import Lines
from yoake.core.values.errors import BadInput
from yoake.core.values.plans import stage_key
from yoake.core.values.runs import Command, Run, RunOutcome, Side
from yoake.formats.junit import read_junit
from yoake.store.applications import get_application
from yoake.store.runs import RunRequest
from yoake.usecases.commit_identity import commit_identity
from yoake.usecases.keep_run import keep_outcome
from yoake.views.plan_stages import stage_of


def bring_results(
    context: Context, slug: str, stage_number: int, commit: str, new: bytes, old: bytes | None, machine: str, who: str
) -> dict[str, int]:
    """Keep what another machine found; returns how many tests have which verdict. Raises NotFound and BadInput.

    ``new``: JUnit XML on the lines of the stage (0: on today's); ``old``: on those before it, which a stage needs.
    ``machine``: where they ran, in words.
    """
    identity = commit_identity(commit)
    if stage_number and old is None:
        raise BadInput("A stage is proven by both sides: send the results on the lines before it too, as “old”.")
    application = get_application(context.db, slug)
    _, stage = stage_of(context, application, stage_number)
    named = {t.coordinate for t in application.destination.targets}
    lines = dict(stage.state) if stage is not None else {}
    after = _run(
        new, "the new results", f"stage {stage_number}" if stage is not None else "today", lines, commit, machine
    )
    before = _run(old, "the old results", "before it", {}, commit, machine) if old is not None else after
    tests = compare([before], [after])
    sides = (before,), (() if stage is None else (after,))
    key = stage_key(stage, named) if stage is not None else ""
    request = RunRequest(stage_number, key, "")
    keep_outcome(context, application, request, RunOutcome(*sides, tests), identity, who)
    return {str(verdict): count for verdict, count in counted(tests).items()}


def _run(data: bytes, name: str, label: str, lines: Lines, commit: str, machine: str) -> Run:
    tests = read_junit(data, name)
    if not tests:
        raise BadInput(f"{name} hold no test.")
    failed = sum(1 for test in tests if test.outcome == "failed")
    return Run(
        side=Side(f"{label}, {machine}", lines),
        command=Command(name=machine, words=(), why="results from outside"),
        ended="failed" if failed else "passed",
        code=1 if failed else 0,
        seconds=sum(test.seconds for test in tests),
        said=f"{failed} of {len(tests)} tests failed" if failed else "",
        tests=tuple(tests),
        identity=f"commit:{commit}",
    )
