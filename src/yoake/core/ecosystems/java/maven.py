"""``pom.xml``: what a module requires and which Java it is compiled for. Read with its parents in the same source, never run."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from lxml import etree

from yoake.core.ecosystems.java.levels import level_of
from yoake.core.ecosystems.java.names import JAVA, maven
from yoake.core.values.modules import Fault, Module, Pin, Requirement

if TYPE_CHECKING:
    from yoake.core.contract.ecosystem import Document
    from yoake.core.values.coordinates import Coordinate

_PROPERTY: Final = re.compile(r"\$\{([^}]+)\}")
_DEEPEST: Final = 8  # properties that name properties, and parents of parents
_LONGEST: Final = 1_000  # characters of a text with its properties put in; names and versions are far shorter
_KEPT: Final = 8  # files kept as they were read, for the modules that have the same parents
_LEVELS: Final = (
    "maven.compiler.release",
    "maven.compiler.source",
    "maven.compiler.target",
    "java.version",
    "jdk.version",
)
"""Properties that say what Java the code is written for, the strongest first."""

_COMPILERS: Final = ("maven-compiler-plugin",)
_CONFIGURED: Final = ("release", "source", "target")
_GROUPS: Final = {"compile": "", "runtime": "", "": ""}


@dataclass
class _Pom:
    """One file as it is, with the file of its parent where that lies in the same source."""

    path: str
    root: etree._Element
    parent: _Pom | None = None
    properties: dict[str, tuple[str, str, int]] = field(default_factory=dict)
    """Name → value, file, line; own ones win over those of parents."""

    managed: dict[tuple[str, str], str] = field(default_factory=dict)


def read_pom(document: Document, module: Module) -> None:
    """Dependencies with the versions that this file and its parents manage, and the Java it is compiled for."""
    try:
        pom = _pom(_chain(document.path, document.texts))
    except etree.XMLSyntaxError as error:
        module.faults.append(Fault(document.path, f"not well-formed XML: {error}"))
        return
    if _name(pom.root) != "project":
        module.faults.append(Fault(document.path, "no <project> at its top"))
        return
    module.name = _text(pom.root, "artifactId") or module.name
    module.coordinate = _own_coordinate(pom)
    module.pins.extend(_levels(pom))
    module.requirements.extend(_parent(pom))
    for group, scope in _scopes(pom.root):
        module.requirements.extend(_dependencies(pom, scope, group))


def _chain(path: str, texts: Mapping[str, str]) -> tuple[tuple[str, str], ...]:
    """(path, text) of a file and of its parents, as far as they lie in the same source. Raises XMLSyntaxError for the file itself."""
    found = [(path, texts[path])]
    while len(found) <= _DEEPEST:
        above = _file_above(*found[-1], texts)
        if above is None:
            break
        found.append((above, texts[above]))
    return tuple(found)


def _file_above(path: str, text: str, texts: Mapping[str, str]) -> str | None:
    above = _child(_root(text), "parent")
    if above is None:
        return None
    relative = _text(above, "relativePath") if _child(above, "relativePath") is not None else "../pom.xml"
    at = posixpath.normpath(posixpath.join(posixpath.dirname(path), relative or "-"))
    for candidate in (at, posixpath.join(at, "pom.xml")):
        if candidate == path or candidate not in texts:
            continue
        try:
            if _text(_root(texts[candidate]), "artifactId") == _text(above, "artifactId"):
                return candidate
        except etree.XMLSyntaxError:
            continue
    return None


@lru_cache(maxsize=_KEPT)
def _pom(chain: tuple[tuple[str, str], ...]) -> _Pom:
    """A file with what it has from its parents, the nearest of which is the second of ``chain``."""
    path, text = chain[0]
    made = _Pom(path, _root(text))
    if len(chain) > 1:
        made.parent = _pom(chain[1:])
        made.properties.update(made.parent.properties)
        made.managed.update(made.parent.managed)
    _own_properties(made)
    for scope in (made.root, *_profiles(made.root)):
        for entry in _each(scope, "dependencyManagement", "dependencies", "dependency"):
            key = (_value(made, entry, "groupId"), _value(made, entry, "artifactId"))
            made.managed[key] = _value(made, entry, "version")
    return made


def parse_xml(text: str) -> etree._Element:
    """The root of an XML text; entities stay unexpanded and nothing is fetched. Raises XMLSyntaxError."""
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True, remove_pis=True
    )
    return etree.fromstring(text.lstrip("\ufeff \t\r\n").encode(), parser)


_root: Final = lru_cache(maxsize=_KEPT)(parse_xml)


def _name(node: etree._Element) -> str:
    return str(node.tag).rpartition("}")[2]


def _child(node: etree._Element, name: str) -> etree._Element | None:
    return next((child for child in node if _name(child) == name), None)


def _each(node: etree._Element, *names: str) -> Iterator[etree._Element]:
    """Elements down a path of names; the last may occur often."""
    for child in node:
        if _name(child) == names[0]:
            if len(names) == 1:
                yield child
            else:
                yield from _each(child, *names[1:])


def _text(node: etree._Element, name: str) -> str:
    found = _child(node, name)
    return (found.text or "").strip() if found is not None else ""


def source_line(node: etree._Element | None) -> int:
    """The line on which an element begins."""
    line = node.sourceline if node is not None else None
    return line if isinstance(line, int) else 1


def _profiles(root: etree._Element) -> list[etree._Element]:
    return list(_each(root, "profiles", "profile"))


def _own_properties(pom: _Pom) -> None:
    root, above = pom.root, _child(pom.root, "parent")
    for scope in (*_profiles(root), root):  # what the project says itself wins over its profiles
        for holder in _each(scope, "properties"):
            for entry in holder:
                pom.properties[_name(entry)] = ((entry.text or "").strip(), pom.path, source_line(entry))
    for name in ("groupId", "version", "artifactId"):
        own = _text(root, name) or (_text(above, name) if above is not None else "")
        for prefix in ("project.", "pom.", ""):
            pom.properties[f"{prefix}{name}"] = (own, pom.path, 1)
        if above is not None:
            pom.properties[f"project.parent.{name}"] = (_text(above, name), pom.path, 1)


def _filled(pom: _Pom, text: str) -> str:
    """A text with its properties put in, as far as they are known."""
    for _ in range(_DEEPEST):
        found = _PROPERTY.search(text)
        if found is None:
            break
        known = pom.properties.get(found.group(1))
        filled = text.replace(found.group(), known[0]) if known is not None and len(known[0]) <= _LONGEST else None
        if filled is None or len(filled) > _LONGEST:
            break
        text = filled
    return text


def _value(pom: _Pom, node: etree._Element, name: str) -> str:
    return _filled(pom, _text(node, name))


def _own_coordinate(pom: _Pom) -> Coordinate | None:
    """As what another module asks for this one. A group that is not written is that of the parent."""
    above = _child(pom.root, "parent")
    group = _value(pom, pom.root, "groupId") or (_text(above, "groupId") if above is not None else "")
    artifact = _value(pom, pom.root, "artifactId")
    return maven(f"{group}/{artifact}") if _plain(group) and _plain(artifact) else None


def _parent(pom: _Pom) -> Iterator[Requirement]:
    """A parent from elsewhere is a package that this one is built with."""
    above = _child(pom.root, "parent")
    if above is None or pom.parent is not None:
        return
    group, artifact, version = (_text(above, name) for name in ("groupId", "artifactId", "version"))
    if group and artifact:
        yield Requirement(
            coordinate=maven(f"{group}/{artifact}"),
            name=f"{group}:{artifact}",
            specifier=version,
            file=pom.path,
            line=source_line(above),
            group="parent",
        )


def _scopes(root: etree._Element) -> Iterator[tuple[str, etree._Element]]:
    """(group, element) of the project and of each of its profiles."""
    yield "", root
    for profile in _profiles(root):
        yield f"profile {_text(profile, 'id')}".strip(), profile


def _dependencies(pom: _Pom, scope: etree._Element, group: str) -> Iterator[Requirement]:
    for entry in _each(scope, "dependencies", "dependency"):
        owner, artifact = _value(pom, entry, "groupId"), _value(pom, entry, "artifactId")
        if not owner or not artifact or "${" in owner or "${" in artifact or not _plain(owner) or not _plain(artifact):
            continue
        version = _value(pom, entry, "version") or pom.managed.get((owner, artifact), "")
        kind = _text(entry, "scope")
        where = group or _GROUPS.get(kind, kind)
        if _text(entry, "optional") == "true":
            where = where or "optional"
        at = _child(entry, "version")
        line = source_line(at if at is not None else _child(entry, "artifactId"))
        wanted = "" if "${" in version else version
        yield Requirement(
            coordinate=maven(f"{owner}/{artifact}"),
            name=f"{owner}:{artifact}",
            specifier=wanted,
            file=pom.path,
            line=line,
            group=where,
        )
    for entry in _each(scope, "dependencyManagement", "dependencies", "dependency") if not group else ():
        if _text(entry, "scope") == "import":
            owner, artifact = _value(pom, entry, "groupId"), _value(pom, entry, "artifactId")
            version = _value(pom, entry, "version")
            if owner and artifact and _plain(owner) and _plain(artifact) and "${" not in version:
                line = source_line(_child(entry, "artifactId"))
                yield Requirement(
                    coordinate=maven(f"{owner}/{artifact}"),
                    name=f"{owner}:{artifact}",
                    specifier=version,
                    file=pom.path,
                    line=line,
                    group="import",
                )


def _plain(name: str) -> bool:
    return bool(re.fullmatch(r"[\w.-]+", name))


def _levels(pom: _Pom) -> Iterator[Pin]:
    """The Java that code is compiled for: the compiler's own configuration, else the properties it looks at."""
    found = next(_configured(pom), None)
    if found is None:
        for name in _LEVELS:
            known = pom.properties.get(name)
            level = level_of(_filled(pom, known[0])) if known is not None else None
            if known is not None and level is not None:
                found = Pin(
                    coordinate=JAVA,
                    version=level,
                    file=known[1],
                    line=known[2],
                    how="pin",
                    text=f"<{name}>{known[0]}</{name}>",
                )
                break
    if found is not None:
        yield found


def _configured(pom: _Pom) -> Iterator[Pin]:
    at: _Pom | None = pom
    while at is not None:
        for plugin in _plugins(at.root):
            if _text(plugin, "artifactId") not in _COMPILERS:
                continue
            settings = [*_each(plugin, "configuration"), *_each(plugin, "executions", "execution", "configuration")]
            for name in _CONFIGURED:
                for entry in (e for s in settings for e in _each(s, name)):
                    level = level_of(_filled(pom, (entry.text or "").strip()))
                    if level is not None:
                        shown = f"<{name}>{(entry.text or '').strip()}</{name}>"
                        yield Pin(
                            coordinate=JAVA, version=level, file=at.path, line=source_line(entry), how="pin", text=shown
                        )
        at = at.parent


def _plugins(root: etree._Element) -> Iterator[etree._Element]:
    for scope in (root, *_profiles(root)):
        yield from _each(scope, "build", "plugins", "plugin")
        yield from _each(scope, "build", "pluginManagement", "plugins", "plugin")
