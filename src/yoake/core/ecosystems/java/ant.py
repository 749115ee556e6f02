"""``build.xml`` of Ant and ``ivy.xml``: the Java that code is compiled for, and dependencies, as far as they are stated."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Final

from lxml import etree

from yoake.core.ecosystems.java.levels import level_of
from yoake.core.ecosystems.java.maven import parse_xml, source_line
from yoake.core.ecosystems.java.names import JAVA, maven
from yoake.core.values.modules import Fault, Module, Pin, Requirement

if TYPE_CHECKING:
    from yoake.core.contract.ecosystem import Document

_PROPERTY: Final = re.compile(r"\$\{([^}]+)\}")
_LONGEST: Final = 100  # characters of a property or of an attribute that states a version
_NAME: Final = re.compile(r"[\w.-]+")


def _parsed(document: Document, module: Module) -> etree._Element | None:
    try:
        return parse_xml(document.text)
    except etree.XMLSyntaxError as error:
        module.faults.append(Fault(document.path, f"not well-formed XML: {error}"))
        return None


def read_build_xml(document: Document, module: Module) -> bool:
    """``<javac source="…" release="…">`` with the properties of the same file."""
    root = _parsed(document, module)
    if root is None or root.tag != "project":
        return False
    module.name = root.get("name") or module.name
    stated = ((entry.get("name", ""), entry.get("value", "")) for entry in root.iter("property"))
    known = {name: value for name, value in stated if name and len(value) <= _LONGEST}
    for task in root.iter("javac", "presetdef"):
        for name in ("release", "source", "target"):
            raw = task.get(name)
            if not raw or len(raw) > _LONGEST:
                continue
            level = level_of(_PROPERTY.sub(lambda found: known.get(found.group(1), ""), raw))
            if level is not None:
                module.pins.append(
                    Pin(
                        coordinate=JAVA,
                        version=level,
                        file=document.path,
                        line=source_line(task),
                        how="pin",
                        text=f'{name}="{raw}"',
                    )
                )
                return True
    return True


def read_ivy(document: Document, module: Module) -> None:
    """``<dependency org="…" name="…" rev="…"/>``."""
    root = _parsed(document, module)
    for entry in root.iter("dependency") if root is not None else ():
        owner, name, wanted = entry.get("org", ""), entry.get("name", ""), entry.get("rev", "")
        if _NAME.fullmatch(owner) and _NAME.fullmatch(name):
            group = "test" if "test" in entry.get("conf", "").split("->")[0] else ""
            wanted = "" if "$" in wanted or wanted.startswith("latest") else wanted
            made = Requirement(
                coordinate=maven(f"{owner}/{name}"),
                name=f"{owner}:{name}",
                specifier=wanted,
                file=document.path,
                line=source_line(entry),
                group=group,
            )
            module.requirements.append(made)
