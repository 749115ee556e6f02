"""Bills of materials in a project: an inventory that another tool wrote, as CycloneDX."""

from __future__ import annotations

from yoake.core.coordinates import Coordinate
from yoake.core.errors import BadSource
from yoake.core.interchange.cyclonedx import from_cyclonedx
from yoake.core.inventory.model import Fault, Locked, Module, Requirement
from yoake.core.inventory.texts import line_of_text

_NAMES = ("bom.json", "sbom.json")


def is_bill(name: str) -> bool:
    """Whether a file name is one that bills of materials have."""
    return name in _NAMES or name.endswith(".cdx.json")


def read_bill(path: str, content: str, module: Module) -> None:
    """Components as locked packages, those that the application itself depends on also as requirements."""
    try:
        name, components = from_cyclonedx(content)
    except BadSource as error:
        module.faults.append(Fault(path, str(error)))
        return
    module.name = name or module.name
    for component in components:
        coordinate = Coordinate(component.purl)
        if coordinate.ecosystem not in ("pypi", "npm"):
            continue
        line = line_of_text(content, f'"{coordinate.name.rsplit("/", 1)[-1]}"')
        if component.version[:1].isdigit():
            module.locked.append(Locked(coordinate.name, component.version, path, line, coordinate.ecosystem))
        if component.direct:
            wanted = component.wanted
            module.requirements.append(Requirement(coordinate.name, wanted, path, line, "", "", coordinate.ecosystem))
