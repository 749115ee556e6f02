"""What a framework brings so that its routes are found in code."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from yoake.core.contract.evaluation import Evaluator, Models
    from yoake.core.values.routes import Route


class RouteCollector(Protocol):
    """Gathers the routes of one source: its models take note of what the code declares while it is followed."""

    @property
    def models(self) -> Models:
        """What the framework's classes and functions do."""

    def routes(self, evaluator: Evaluator) -> Iterable[Route]:
        """Follows the code from where the framework would begin, and answers the routes."""


@dataclass(frozen=True, kw_only=True)
class RouteReader:
    """How a framework's routes are found in the code of one language.

    ``signs``: a source that uses the framework has one of these texts in a file. ``begin`` makes a collector for one source.
    """

    name: str
    language: str
    signs: tuple[bytes, ...]
    begin: Callable[[], RouteCollector]
