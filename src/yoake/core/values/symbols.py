"""The surface of one version: its public symbols, before lines are put together to a timeline."""

from __future__ import annotations

from dataclasses import dataclass, field

from yoake.core.values.coordinates import Line


@dataclass(slots=True, kw_only=True)
class SurfaceSymbol:
    """One public path of one version. ``kind``: m module, c class, f function, v value."""

    kind: str
    alias: str | None = None
    bases: tuple[str, ...] = ()
    signature: str | None = None
    deprecated: bool = False
    unread: bool = False
    note: str = ""


@dataclass(slots=True)
class Surface:
    """All symbols that one version of a coordinate offers, and how they were read."""

    line: Line
    release: str
    how: str
    digest: str
    symbols: dict[str, SurfaceSymbol] = field(default_factory=dict)
