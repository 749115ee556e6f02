"""Routes out of the code of a source, with every framework that reads its language."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from yoake.core.contract.evaluation import Evaluator, Exhausted
from yoake.core.crossing.needs import NeedsReader
from yoake.core.crossing.parts import PartGraph

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.contract.route_readers import RouteReader
    from yoake.core.values.routes import Route


@dataclass(frozen=True, slots=True)
class CodeRoutes:
    """Routes in order of path and method; ``cut`` names frameworks whose reading came to the bound of steps. ``parts``: what each
    drags along, where that was asked for."""

    routes: tuple[Route, ...]
    cut: tuple[str, ...] = ()
    parts: PartGraph = field(default_factory=PartGraph)


def read_code_routes(
    paths: Sequence[str], read: Callable[[str], bytes | None], registry: Registry, *, with_parts: bool = False
) -> CodeRoutes:
    """The routes that the frameworks of ``registry`` find. ``read`` gives the text of one of ``paths``, None where it cannot."""
    kept: dict[str, bytes | None] = {}

    def remembered(path: str) -> bytes | None:
        if path not in kept:
            kept[path] = read(path)
        return kept[path]

    found: list[Route] = []
    cut: list[str] = []
    parts = PartGraph()
    for framework in registry.frameworks:
        reader = framework.routes
        ecosystem = registry.of_language(reader.language) if reader is not None else None
        if reader is None or ecosystem is None or ecosystem.evaluator is None:
            continue
        suffixes = tuple(suffix for source in ecosystem.sources for suffix in source.languages)
        written = [path for path in paths if path.endswith(suffixes)]
        if not _is_used(reader, written, remembered):
            continue
        collector = reader.begin()
        evaluator = ecosystem.evaluator(paths, remembered, collector.models)
        own: list[Route] = []
        try:
            for route in collector.routes(evaluator):
                own.append(route)  # noqa: PERF402 - what was found before the bound is kept
        except (Exhausted, RecursionError):  # written so deep, or so much of it, that nobody follows it
            cut.append(reader.name)
        found.extend(own)
        if with_parts:
            parts = parts.and_of(_parts(evaluator, own))
    return CodeRoutes(distinct(found), tuple(cut), parts)


def _parts(evaluator: Evaluator, routes: Iterable[Route]) -> PartGraph:
    try:
        return NeedsReader(evaluator).graph(distinct(routes))
    except (Exhausted, RecursionError):
        return PartGraph()


def _is_used(reader: RouteReader, paths: Iterable[str], read: Callable[[str], bytes | None]) -> bool:
    return any(sign in (read(path) or b"") for path in paths for sign in reader.signs)


def distinct(routes: Iterable[Route]) -> tuple[Route, ...]:
    """Each method on each path once, the first that declares it, in order of path and method."""
    kept: dict[tuple[str, str], Route] = {}
    for each in routes:
        kept.setdefault((each.method, each.path), each)
    return tuple(sorted(kept.values(), key=lambda r: (r.path, r.method)))
