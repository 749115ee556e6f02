"""What a runtime lost and a declared dependency brings back is no break."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from yoake.core.values.coordinates import Coordinate, parse_coordinate

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.scan.usages import Hit
    from yoake.core.values.modules import Module


def with_dependencies(hits: Iterable[Hit], stated: Mapping[Coordinate, str], knowledge: Knowledge) -> Iterator[Hit]:
    """The hits of a module; those that one of its packages answers for say so and stop nothing. ``stated``: as ``stated_of`` says."""
    for hit in hits:
        by = _provider(hit, stated, knowledge) if hit.verdict.state == "fails" and stated else ""
        yield hit._replace(guarded=f"brought back by {by}") if by else hit


def stated_of(module: Module, modules: Sequence[Module]) -> dict[Coordinate, str]:
    """Coordinate → release or range, of everything the module names or locks, and of what the modules it asks for are built on."""
    made = {other.coordinate: other for other in modules if other.coordinate is not None}
    found = {requirement.coordinate: requirement.specifier for requirement in module.requirements}
    found |= {entry.coordinate: entry.release for entry in module.locked}
    met = {module.path}
    ahead = [made[coordinate] for coordinate in found if coordinate in made]
    while ahead:
        other = ahead.pop()
        if other.path in met:
            continue
        met.add(other.path)
        for requirement in other.requirements:
            if not requirement.group:  # what only its own tests or build need is not handed on
                found.setdefault(requirement.coordinate, requirement.specifier)
                ahead.extend([made[requirement.coordinate]] if requirement.coordinate in made else ())
    return found


def _provider(hit: Hit, stated: Mapping[Coordinate, str], knowledge: Knowledge) -> str:
    found = knowledge.rule_for(hit.verdict.coordinate, hit.verdict.cause or hit.verdict.symbol)
    for entry in found[0].provided_by if found is not None else ():
        name, _, wanted = entry.partition("@")
        coordinate = knowledge.ecosystems.canonical(parse_coordinate(name))
        if coordinate in stated and _admits(knowledge, coordinate, wanted, stated[coordinate]):
            return coordinate.name
    return ""


def _admits(knowledge: Knowledge, coordinate: Coordinate, wanted: str, stated: str) -> bool:
    release = knowledge.ecosystems.exact(coordinate, stated) or stated
    return not wanted or not release or bool(knowledge.ecosystems.admitted(coordinate, wanted, [release]))
