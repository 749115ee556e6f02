"""Lines of a standard library that no interpreter here has: read from stubs, as a change to the newest real line.

Stubs leave out private names, so their surface cannot stand for an interpreter's. What they can say is what changes:
a name in the stubs for 3.13 and not for 3.14 went away; the reverse arrived.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from yoake.core.ecosystems.python.surface import module_name, read_package
from yoake.core.values.coordinates import Line, line_key
from yoake.core.values.symbols import Surface, SurfaceSymbol


def read_versions(listing: str) -> dict[str, tuple[str, str | None]]:
    """The ``VERSIONS`` file of a stub folder: module → (first line, last line or None)."""
    found: dict[str, tuple[str, str | None]] = {}
    for raw in listing.splitlines():
        name, colon, span = raw.partition("#")[0].partition(":")
        if colon:
            first, _, last = span.strip().partition("-")
            found[name.strip()] = (first.strip(), last.strip() or None)
    return found


def _offered(module: str, line: Line, versions: Mapping[str, tuple[str, str | None]]) -> bool:
    parts = module.split(".")
    for length in range(len(parts), 0, -1):
        span = versions.get(".".join(parts[:length]))
        if span is None:
            continue
        if line < span[0] or (span[1] is not None and line > span[1]):
            return False
    return True


def stub_surface(
    files: Mapping[str, bytes], versions: Mapping[str, tuple[str, str | None]], line: Line
) -> dict[str, SurfaceSymbol]:
    """What the stubs say a line offers."""
    kept = {p: d for p, d in files.items() if (name := module_name(p)) and _offered(name, line, versions)}
    return read_package(kept, line_key(line), stubs=True)


def extend_by_stubs(
    base: Surface,
    before: Mapping[str, SurfaceSymbol],
    after: Mapping[str, SurfaceSymbol],
    line: Line,
    how: str,
    digest: str,
) -> Surface:
    """The surface of ``line``: ``base`` changed as the stubs changed from ``before`` to ``after``."""
    gone = [path for path in before if path not in after]
    gone_modules = {path for path in gone if before[path].kind == "m"}
    symbols: dict[str, SurfaceSymbol] = {}
    removed = set(gone)
    for path, symbol in base.symbols.items():
        if path in removed or any(path.startswith(f"{module}.") for module in gone_modules):
            continue
        symbols[path] = replace(symbol)
    for path, symbol in after.items():
        if path not in before and path not in symbols:
            symbols[path] = replace(symbol, unread=True)
    return Surface(line, line, how, digest, symbols)


def mark_deprecated(surface: Surface, stubs: Mapping[str, SurfaceSymbol]) -> None:
    """Carry ``@deprecated`` of the stubs over to a surface (C functions warn where no text shows it)."""
    for path, symbol in stubs.items():
        known = surface.symbols.get(path)
        if symbol.deprecated and known is not None:
            known.deprecated = True


def add_platform_modules(
    surfaces: Sequence[Surface], files: Mapping[str, bytes], versions: Mapping[str, tuple[str, str | None]]
) -> None:
    """Modules of other systems (``winreg``, ``msilib``), which no interpreter here has, as the stubs list them.

    Only their existence and names are taken; the stubs' oldest line stands for older ones.
    """
    seen = {path for surface in surfaces for path, symbol in surface.symbols.items() if symbol.kind == "m"}
    foreign = {path: data for path, data in files.items() if (name := module_name(path)) and name not in seen}
    for surface in surfaces:
        if line_key(surface.line) < (3,):
            continue
        for path, symbol in stub_surface(foreign, versions, surface.line).items():
            if path.split(".")[0] not in seen:
                surface.symbols.setdefault(path, replace(symbol, unread=True))
