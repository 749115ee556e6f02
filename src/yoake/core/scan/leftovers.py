"""Old versions still named somewhere: in scripts, docs, container and CI files. They stop nothing, and mislead for years."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from yoake.core.values.coordinates import Coordinate, Line, line_key

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.scan.findings import Builder
    from yoake.core.values.findings import Finding
    from yoake.core.values.modules import Mention, Module


def leftover_findings(
    module: Module, builder: Builder, knowledge: Knowledge, mentions: Sequence[Mention]
) -> Iterator[Finding]:
    """One finding for each coordinate and old line that texts of this module name, pins left to their own findings."""
    pinned = {(pin.file, pin.line) for pin in module.pins} | {(r.file, r.line) for r in module.requirements}
    groups: dict[tuple[Coordinate, Line], list[Mention]] = {}
    for mention in mentions:
        span = builder.spans.get(mention.coordinate)
        if span is None or (mention.file, mention.line) in pinned:
            continue
        line = knowledge.line_of(mention.coordinate, mention.version)
        oldest = min(line_key(span.today), line_key(span.goal))
        if line_key(line)[:1] >= oldest[:1] and line < span.goal:
            groups.setdefault((mention.coordinate, line), []).append(mention)
    for (coordinate, line), held in sorted(groups.items()):
        shown = knowledge.spoken(coordinate)
        yield builder.single(
            coordinate,
            "leftover",
            f"{shown} {line} named in texts",
            f"{shown} {line} is still named in {_count(held)}",
            None,
            [(m.file, m.line, m.text) for m in held],
            level="note",
            remedy=f"Name {builder.spans[coordinate].goal} there once the application has moved, or drop the version.",
            evidence=("read from the texts themselves",),
            confidence="likely",
        )


def _count(held: Sequence[Mention]) -> str:
    files = len({m.file for m in held})
    return f"{files} text{'s' if files > 1 else ''}"
