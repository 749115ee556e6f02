"""Bills of materials in a project: an inventory that another tool wrote, as CycloneDX.

Field names and shapes follow the public specification, versions 1.2 to 1.6, as JSON.
"""

from __future__ import annotations

import json
from collections import deque
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Final

from packageurl import PackageURL

from yoake.core.contract.texts import line_of_text
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadSource
from yoake.core.values.modules import Fault, Locked, Module, Requirement

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry

FORMAT: Final = "CycloneDX"
VERSION: Final = "1.6"
_NAMES: Final = ("bom.json", "sbom.json")


@dataclass(frozen=True, slots=True)
class Component:
    """One package of an inventory. ``version`` is empty when only a range is known; ``direct``: a manifest names it."""

    coordinate: Coordinate
    version: str
    direct: bool = True
    wanted: str = ""
    file: str = ""


def is_bill(name: str) -> bool:
    """Whether a file name is one that bills of materials have."""
    return name in _NAMES or name.endswith(".cdx.json")


def read_bill(path: str, content: str, module: Module, ecosystems: Registry) -> None:
    """Components as locked packages, those that the application itself depends on also as requirements."""
    try:
        name, components = from_cyclonedx(content)
    except BadSource as error:
        module.faults.append(Fault(path, str(error)))
        return
    module.name = name or module.name
    for component in components:
        coordinate = ecosystems.canonical(component.coordinate)
        if not ecosystems.is_package(coordinate):
            continue
        line = line_of_text(content, f'"{coordinate.name.rsplit("/", 1)[-1]}"')
        if component.version[:1].isdigit():
            module.locked.append(Locked(coordinate, component.version, path, line))
        if component.direct:
            module.requirements.append(
                Requirement(
                    coordinate=coordinate, name=coordinate.name, specifier=component.wanted, file=path, line=line
                )
            )


def _table(value: object) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _listed(value: object) -> list[Any]:
    return value if isinstance(value, list) else []


def from_cyclonedx(text: str) -> tuple[str, list[Component]]:
    """(name, components) of a bill of materials in JSON, of version 1.2 to 1.6. Raises BadSource with what to do."""
    try:
        body = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadSource(f"This is not valid JSON ({error}). Export the bill of materials as CycloneDX JSON.") from error
    if not isinstance(body, dict) or body.get("bomFormat") != FORMAT:
        raise BadSource("This is no CycloneDX document: “bomFormat” does not say so. Export it as CycloneDX JSON.")
    if str(body.get("specVersion")) not in ("1.2", "1.3", "1.4", "1.5", "1.6"):
        raise BadSource(f"CycloneDX {body.get('specVersion')} is not read; export version {VERSION}.")
    root = _table(_table(body.get("metadata")).get("component"))
    direct = _direct(body, str(root.get("bom-ref", "")))
    found: list[Component] = []
    waiting = deque(_listed(body.get("components")))
    while waiting:
        entry = waiting.popleft()
        if isinstance(entry, dict):
            waiting.extend(_listed(entry.get("components")))
            component = _read(entry, direct)
            found.extend([component] if component is not None else [])
    return str(root.get("name") or ""), found


def _direct(body: dict[str, Any], root: str) -> set[str] | None:
    """References that the application itself depends on; None when the document does not say."""
    for entry in _listed(body.get("dependencies")):
        if isinstance(entry, dict) and entry.get("ref") == root and root:
            return {str(ref) for ref in _listed(entry.get("dependsOn"))}
    return None


def _read(entry: dict[str, Any], direct: set[str] | None) -> Component | None:
    try:
        parsed = PackageURL.from_string(str(entry.get("purl") or ""))
    except ValueError:
        return None
    version = parsed.version or str(entry.get("version") or "")
    plain = PackageURL(parsed.type, parsed.namespace, parsed.name).to_string()
    named = direct is None or str(entry.get("bom-ref")) in direct
    properties = [p for p in _listed(entry.get("properties")) if isinstance(p, dict)]
    wanted = next((p.get("value", "") for p in properties if p.get("name") == "yoake:wanted"), "")
    return Component(Coordinate(plain), version, named, str(wanted))
