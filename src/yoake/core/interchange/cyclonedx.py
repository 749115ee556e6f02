"""CycloneDX 1.6: the inventory of an application as components, out and in.

Field names and shapes follow the public specification, version 1.6, as JSON.
"""

from __future__ import annotations

import json
import uuid
from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Final

from packageurl import PackageURL

from yoake.core.errors import BadSource

FORMAT: Final = "CycloneDX"
VERSION: Final = "1.6"
_NAMESPACE: Final = uuid.UUID("6a1f0a2e-3a58-4d1c-9a0e-0c9f6e5d1b20")


@dataclass(frozen=True, slots=True)
class Component:
    """One package of an inventory. ``version`` is empty when only a range is known; ``direct``: a manifest names it."""

    purl: str
    version: str
    direct: bool = True
    wanted: str = ""
    file: str = ""


def to_cyclonedx(name: str, version: str, components: Iterable[Component], tool: str) -> dict[str, Any]:
    """One bill of materials. The serial number follows from the content, so that the same inventory gives the same bytes."""
    listed = sorted(set(components), key=lambda c: (c.purl, c.version))
    root = f"application:{name}"
    body = [_component(c) for c in listed]
    serial = uuid.uuid5(_NAMESPACE, json.dumps([name, version, body], sort_keys=True))
    return {
        "$schema": "http://cyclonedx.org/schema/bom-1.6.schema.json",
        "bomFormat": FORMAT,
        "specVersion": VERSION,
        "serialNumber": f"urn:uuid:{serial}",
        "version": 1,
        "metadata": {
            "tools": {"components": [{"type": "application", "name": "Yoake", "version": tool}]},
            "component": {
                "type": "application",
                "bom-ref": root,
                "name": name,
                **({"version": version} if version else {}),
            },
        },
        "components": body,
        "dependencies": [{"ref": root, "dependsOn": [_purl(c) for c in listed if c.direct]}],
    }


def _purl(component: Component) -> str:
    base = PackageURL.from_string(component.purl)
    return str(base._replace(version=component.version or None).to_string())


def _component(component: Component) -> dict[str, Any]:
    base = PackageURL.from_string(component.purl)
    made: dict[str, Any] = {"type": "library", "bom-ref": _purl(component), "name": base.name, "purl": _purl(component)}
    if base.namespace:
        made["group"] = base.namespace
    if component.version:
        made["version"] = component.version
    pairs = (("yoake:wanted", component.wanted), ("yoake:file", component.file))
    properties = [{"name": key, "value": value} for key, value in pairs if value]
    if properties:
        made["properties"] = properties
    return made


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
    return Component(plain, version, named, str(wanted))
