"""Class files as sources: what their code refers to, for artefacts that came without their text; and what jars lie beside them."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.ecosystems.java.class_file import ClassFile, read_class
from yoake.core.ecosystems.java.names import maven, package_part
from yoake.core.ecosystems.java.surface import arguments, class_path
from yoake.core.values.facts import Ask, FileFacts, Gathering
from yoake.core.values.modules import Locked, Module

if TYPE_CHECKING:
    from yoake.core.contract.ecosystem import Document

_OBJECT: Final = re.compile(r"^\[*L?([^;\[]+);?$")
_NAMED: Final = re.compile(r"(?P<name>[\w.-]+?)-(?P<version>\d[\w.+-]*)\.jar$")
_PROPERTIES: Final = re.compile(r"META-INF/maven/[^/]+/[^/]+/pom\.properties$")
_LARGEST: Final = 20_000  # bytes of a pom.properties; real ones have some hundred


def read_compiled(data: bytes) -> FileFacts:
    """The facts of one class file. It has no lines, so everything stands on its first. Raises ValueError for bytes that are none."""
    made = read_class(data, references=True)
    found = Gathering()
    for name in (made.parent, *made.interfaces):
        _tell(_path(name, made), "name", (), found)
    for name in made.classes:
        plain = _OBJECT.match(name)
        if plain is not None and "/" in plain.group(1):
            _tell(_path(plain.group(1), made), "import", (), found)
    for owner, member, descriptor in made.references:
        base = _path(owner, made) if "/" in owner and not owner.startswith("[") else None
        if base is not None:
            call = descriptor.startswith("(")
            keywords = (f"/{arguments(descriptor)}",) if call else ()
            _tell(f"{base}.{member}", "call" if call else "attribute", keywords, found)
    package, _, simple = made.name.rpartition("/")
    top = simple.split("$", 1)[0]
    part = package_part(package.replace("/", "."))
    return FileFacts(
        asks=found.asks,
        places=found.places,
        scopes=found.scopes,
        exports={top: ("",)},
        stars=(part,),
        classes={},
        assigned={},
        broken=(),
        lines=1,
        language="java",
    )


def _path(name: str, made: ClassFile) -> str | None:
    """The path of a class that a class file refers to; a dollar sign means a class inside another where nothing says more."""
    if name in made.inner:
        return class_path(name, made.inner)
    package, _, simple = name.rpartition("/")
    return f"{package_part(package.replace('/', '.'))}.{simple.replace('$', '.')}" if package else None


def _tell(path: str | None, form: str, keywords: tuple[str, ...], found: Gathering) -> None:
    if path is not None:
        found.add(Ask(path, form, (), keywords), 1, 0, 0, "")


def read_jar_name(document: Document, module: Module) -> None:
    """A jar that lies in the project is a package of one exact release: by its own record, else by its name."""
    stated = _recorded(document.data)
    named = _NAMED.search(document.path.rsplit("/", 1)[-1])
    if stated is not None:
        module.locked.append(Locked(maven(f"{stated[0]}/{stated[1]}"), stated[2], document.path, 1))
    elif named is not None:
        name = named.group("name")
        module.locked.append(Locked(maven(f"{name}/{name}"), named.group("version"), document.path, 1))


def _recorded(data: bytes) -> tuple[str, str, str] | None:
    """(group, artifact, version) of the only record in a jar; of several (a jar of jars) none counts."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [i for i in archive.infolist() if _PROPERTIES.match(i.filename) and i.file_size < _LARGEST]
            if len(entries) != 1:
                return None
            held = _pairs(archive.read(entries[0]).decode("utf-8", "replace"))
    except (zipfile.BadZipFile, OSError, NotImplementedError, RuntimeError, ValueError):
        return None
    found = tuple(held.get(key, "") for key in ("groupId", "artifactId", "version"))
    return (found[0], found[1], found[2]) if all(re.fullmatch(r"[\w.+-]+", part) for part in found) else None


def _pairs(text: str) -> Mapping[str, str]:
    rows = (raw.split("=", 1) for raw in text.splitlines() if "=" in raw and not raw.startswith("#"))
    return {name.strip(): value.strip() for name, value in rows}
