"""Figures for whoever watches from outside, in the OpenMetrics text form."""

from __future__ import annotations

from collections.abc import MutableMapping
from typing import TYPE_CHECKING, Any, Final

import structlog
from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram
from prometheus_client.openmetrics.exposition import CONTENT_TYPE_LATEST, generate_latest

from yoake import __version__
from yoake.context.context import Context
from yoake.store.applications import count_applications
from yoake.store.jobs import count_jobs
from yoake.store.scans import count_levels

if TYPE_CHECKING:
    from yoake.usecases.queue import Queue

log = structlog.get_logger()

SLOW: Final = 0.5
"""Seconds from which on a statement is told in the log."""

_BUCKETS: Final = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10)
_JOB_STATES: Final = ("waiting", "running", "done", "failed", "stopped")


class Metrics:
    """Counters of one server. Gauges are read when somebody asks."""

    media = CONTENT_TYPE_LATEST

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        held = self.registry
        self.requests = Histogram(
            "yoake_request_seconds",
            "Time from a request to its answer",
            ["method", "route", "status"],
            buckets=_BUCKETS,
            registry=held,
        )
        self.errors = Counter("yoake_unexpected_errors", "Requests that failed in a way nobody foresaw", registry=held)
        self.statements = Histogram(
            "yoake_statement_seconds", "Time of a statement on the records", buckets=_BUCKETS, registry=held
        )
        self.jobs = Gauge("yoake_jobs", "Jobs by state", ["state"], registry=held)
        self.job_threads = Gauge("yoake_job_threads", "Threads that take jobs", registry=held)
        self.applications = Gauge("yoake_applications", "Applications that are looked after", registry=held)
        self.findings = Gauge("yoake_findings", "Findings of the newest scans by level", ["level"], registry=held)
        self.steps = Gauge("yoake_steps", "Steps towards current destinations", ["state"], registry=held)
        Gauge("yoake_info", "The version that runs", ["version"], registry=held).labels(__version__).set(1)

    def answered(self, scope: MutableMapping[str, Any], status: int, seconds: float) -> None:
        """Count one answer under the route that gave it, never under what a client wrote."""
        route = getattr(scope.get("route"), "path", "") or "(none)"
        self.requests.labels(scope["method"][:8], route, str(status)).observe(seconds)

    def tap(self, sql: str, seconds: float) -> None:
        """Count a statement; a slow one is told, without its values."""
        self.statements.observe(seconds)
        if seconds > SLOW:
            log.warning("slow statement", seconds=round(seconds, 3), sql=" ".join(sql.split())[:400])

    def text(self, context: Context, queue: Queue) -> bytes:
        """Everything, as it is now."""
        counted = count_jobs(context.db)
        for state in _JOB_STATES:
            self.jobs.labels(state).set(counted.get(state, 0))
        self.job_threads.set(queue.state().threads)
        applications, opened, closed = count_applications(context.db)
        self.applications.set(applications)
        self.steps.labels("open").set(opened)
        self.steps.labels("closed").set(closed)
        for level, count in count_levels(context.db).items():
            self.findings.labels(level).set(count)
        return bytes(generate_latest(self.registry))  # type: ignore[no-untyped-call]  # its form of this standard has no types
