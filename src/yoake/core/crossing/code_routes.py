"""Routes out of the code of a source, with every framework that reads its language."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from yoake.core.contract.evaluation import Exhausted
from yoake.core.contract.registry import Registry
from yoake.core.contract.route_readers import RouteReader
from yoake.core.values.routes import Route


@dataclass(frozen=True, slots=True)
class CodeRoutes:
    """Routes in order of path and method; ``cut`` names frameworks whose reading came to the bound of steps."""

    routes: tuple[Route, ...]
    cut: tuple[str, ...] = ()


def read_code_routes(paths: Sequence[str], read: Callable[[str], bytes | None], registry: Registry) -> CodeRoutes:
    """The routes that the frameworks of ``registry`` find. ``read`` gives the text of one of ``paths``, None where it cannot."""
    kept: dict[str, bytes | None] = {}

    def remembered(path: str) -> bytes | None:
        if path not in kept:
            kept[path] = read(path)
        return kept[path]

    found: list[Route] = []
    cut: list[str] = []
    for framework in registry.frameworks:
        reader = framework.routes
        ecosystem = registry.of_language(reader.language) if reader is not None else None
        if reader is None or ecosystem is None or ecosystem.evaluator is None:
            continue
        suffixes = tuple(suffix for source in ecosystem.sources for suffix in source.languages)
        own = [path for path in paths if path.endswith(suffixes)]
        if not _is_used(reader, own, remembered):
            continue
        collector = reader.begin()
        evaluator = ecosystem.evaluator(paths, remembered, collector.models)
        try:
            found.extend(collector.routes(evaluator))
        except Exhausted:
            cut.append(reader.name)
    return CodeRoutes(distinct(found), tuple(cut))


def _is_used(reader: RouteReader, paths: Iterable[str], read: Callable[[str], bytes | None]) -> bool:
    return any(sign in (read(path) or b"") for path in paths for sign in reader.signs)


def distinct(routes: Iterable[Route]) -> tuple[Route, ...]:
    """Each method on each path once, the first that declares it, in order of path and method."""
    kept: dict[tuple[str, str], Route] = {}
    for each in routes:
        kept.setdefault((each.method, each.path), each)
    return tuple(sorted(kept.values(), key=lambda r: (r.path, r.method)))
