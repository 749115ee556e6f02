"""The routes of a scanned application as they would move piece by piece, each with the findings in the code that it brings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import structlog

from yoake.core.contract.registry import Registry
from yoake.core.crossing.code_routes import read_code_routes
from yoake.core.crossing.slices import in_order, with_findings
from yoake.core.values.journeys import BroughtSlice
from yoake.core.values.results import ScanResult
from yoake.core.values.routes import Route
from yoake.runner.encodings import normalise
from yoake.usecases.scanned import Scanned

log = structlog.get_logger()


def find_slices(
    scanned: Scanned, ecosystems: Registry, chosen: Mapping[str, Sequence[str]] | None = None
) -> dict[str, tuple[BroughtSlice, ...]]:
    """Module → its slices in their order: as a person chose them (``chosen``: slice → names of routes), else by prefix with the cheapest first.
    Nothing is read where requirements are known and no web framework is among them."""
    required = {r.coordinate for module in scanned.result.modules for r in module.requirements}
    if required and not required & ecosystems.web_frameworks:
        return {}
    try:
        found = read_code_routes(sorted(scanned.texts), _Texts(scanned.texts), ecosystems, with_parts=True)
    except Exception as error:  # noqa: BLE001 - what is scanned may be anything; a scan never fails for its routes
        log.warning("the routes were not read", source=scanned.label, error=repr(error)[:300])
        return {}
    by_module: dict[str, list[Route]] = {}
    for route in found.routes:
        by_module.setdefault(_module_of(route, scanned.result), []).append(route)
    needs = found.parts.all_needs()
    slices = {}
    for module, routes in by_module.items():
        findings = [finding for finding in scanned.result.findings if finding.module == module]
        order = in_order(chosen or {}, routes, needs, {})
        slices[module] = with_findings(order, needs, findings)
    return slices


class _Texts:
    """Texts that a scan read, as their readers want them."""

    def __init__(self, texts: Mapping[str, bytes]) -> None:
        self._texts = texts

    def __call__(self, path: str) -> bytes | None:
        data = self._texts.get(path)
        try:
            return normalise(data)[0] if data is not None else None
        except (ValueError, LookupError):
            return None


def _module_of(route: Route, result: ScanResult) -> str:
    above = [m.path for m in result.modules if m.path == "" or route.file.startswith(f"{m.path}/")]
    return max(above, key=len, default="")
