"""CycloneDX 1.6: the inventory of an application as components.

Field names and shapes follow the public specification, version 1.6, as JSON.
"""

from __future__ import annotations

import json
import uuid
from collections.abc import Iterable
from typing import Any, Final

from packageurl import PackageURL

from yoake.core.inventory.bills import FORMAT, VERSION, Component

_NAMESPACE: Final = uuid.UUID("6a1f0a2e-3a58-4d1c-9a0e-0c9f6e5d1b20")


def to_cyclonedx(name: str, version: str, components: Iterable[Component], tool: str) -> dict[str, Any]:
    """One bill of materials. The serial number follows from the content, so that the same inventory gives the same bytes."""
    listed = sorted(set(components), key=lambda c: (c.coordinate, c.version))
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
    base = PackageURL.from_string(component.coordinate)
    return str(base._replace(version=component.version or None).to_string())


def _component(component: Component) -> dict[str, Any]:
    base = PackageURL.from_string(component.coordinate)
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
