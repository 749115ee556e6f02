"""Every operation of the description, asked with what it allows and with what it does not: never a failure of the server.

``YOAKE_EXAMPLES`` asks more often than the few times of every run.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import FlakyStrategyDefinition, Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import status_code_conformance

from tests.conftest import write
from tests.executors import LentExecutor
from tests.waiting import until
from yoake.context.context import open_context
from yoake.formats.tables import ApplicationRow
from yoake.runner.home import Home
from yoake.server.app import create_app
from yoake.server.guard import Reach
from yoake.shipped import KIT
from yoake.store.applications import list_applications
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue
from yoake.usecases.take_in import take_in

EXAMPLES = int(os.environ.get("YOAKE_EXAMPLES", "4"))
_STEPS = 8  # requests of one walk
_WALKS = 10  # in a row, before it is forgotten what could be asked for


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory) -> Iterator[schemathesis.BaseSchema]:
    """A server with one scanned application, and what it says of itself."""
    home = tmp_path_factory.mktemp("schema")
    source = write(home / "desk", {".python-version": "3.8\n", "a.py": "import imp\nimport asyncore\n"})
    context = open_context(Home(home / "home"), KIT)
    context.allowed = (home,)
    take_in(
        context,
        [
            ApplicationRow(
                number=1,
                name="desk",
                source=str(source),
                ref="",
                subfolder="",
                owner="",
                team="",
                destination="python@3.13",
            )
        ],
        "Ines",
    )
    queue = Queue(context=context, kinds=JOBS, workers=1, executor=LentExecutor())
    app = create_app(context, queue, Reach(frozenset("*")))
    queue.start()
    queue.ask(list_applications(context.db), "x")
    until(lambda: not queue.state().waiting and not queue.state().running)
    app.router.lifespan_context = _nothing
    whole = schemathesis.openapi.from_asgi("/openapi.json", app)
    yield whole.exclude(path_regex="/jobs/stream|/session/provider").exclude(path="/api/v1/knowledge", method="POST")
    queue.close()
    context.db.close()


class _nothing:  # noqa: N801  a life without a beginning or an end: the fixture has both
    def __init__(self, _app: object) -> None: ...
    async def __aenter__(self) -> None: ...
    async def __aexit__(self, *_: object) -> None: ...


@pytest.mark.parametrize("mode", [GenerationMode.POSITIVE, GenerationMode.NEGATIVE], ids=["allowed", "not allowed"])
def test_no_request_makes_the_server_fail_or_answers_what_is_not_described(
    described: schemathesis.BaseSchema, mode: GenerationMode
) -> None:
    for found in described.get_all_operations():
        operation: Any = found.ok()  # type: ignore[union-attr]

        @given(case=operation.as_strategy(generation_mode=mode))
        @settings(max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck))
        def ask(case: schemathesis.Case) -> None:
            case.call_and_validate(checks=[not_a_server_error, status_code_conformance])

        try:
            ask()
        except Unsatisfiable:
            continue  # nothing can be wrong about an operation that takes nothing


def test_what_one_answer_names_can_be_asked_for_in_the_next_request(described: schemathesis.BaseSchema) -> None:
    """Requests one after the other, with what earlier answers named: applications, findings, steps and their versions."""

    class Walk(described.as_state_machine()):  # type: ignore[misc]
        def validate_response(self, response: schemathesis.Response, case: schemathesis.Case, **_: object) -> None:
            case.validate_response(response, checks=[not_a_server_error, status_code_conformance])

    few = min(EXAMPLES, _WALKS)
    held = settings(max_examples=few, stateful_step_count=_STEPS, deadline=None, database=None, phases=[Phase.generate])
    for _ in range(EXAMPLES // few):
        with suppress(
            FlakyStrategyDefinition
        ):  # what can be asked for depends on what was changed: no fault of the server
            Walk.run(settings=settings(held, suppress_health_check=list(HealthCheck)))


def test_the_description_says_what_every_problem_looks_like(described: schemathesis.BaseSchema) -> None:
    for path, methods in described.raw_schema["paths"].items():
        for operation in methods.values():
            assert {"404", "422", "503"} <= set(operation["responses"]), path
