"""Gradle's scripts, in Groovy and in Kotlin, its version catalogue, properties and lock file: read as text, never run.

A script is a program; what it states in plain literals is taken, with the variables and properties that the same source sets.
"""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from yoake.core.contract.texts import line_of_text, parse_toml, table
from yoake.core.ecosystems.java.levels import level_of
from yoake.core.ecosystems.java.names import JAVA, maven
from yoake.core.values.modules import Fault, Locked, Module, Pin, Requirement

if TYPE_CHECKING:
    from yoake.core.contract.ecosystem import Document

_SETTINGS: Final = ("settings.gradle", "settings.gradle.kts")
_NOTATION: Final = re.compile(
    r"""['"](?P<group>[\w.-]+):(?P<name>[\w.-]+)(?::(?P<version>[^'":@]*))?(?::[\w.-]+)?(?:@\w+)?['"]"""
)
_MAP: Final = re.compile(
    r"""group\s*[:=]\s*['"](?P<group>[\w.-]+)['"]\s*,\s*name\s*[:=]\s*['"](?P<name>[\w.-]+)['"](?:\s*,\s*version\s*[:=]\s*(?P<version>['"][^'"]*['"]|[\w.]+))?"""
)
_CONFIGURATION: Final = re.compile(
    r"^\s*(?P<conf>[a-z]\w*(?:Implementation|Api|Only|Compile|Runtime|Processor|Classpath|Annotation)|implementation|api|compile"
    r"|runtime|compileOnly|runtimeOnly|provided|annotationProcessor|kapt|classpath|testCompile|testRuntime)\b\s*[( ]"
)
_CATALOGUE: Final = re.compile(r"\blibs\.(?P<alias>[\w.]+)")
_VARIABLE: Final = re.compile(
    r"""(?:^|[{;])\s*(?:def|val|var|String|ext\.|project\.ext\.|extra\[["'])?\s*(?P<name>[A-Za-z_][\w.]*)(?:["']\])?\s*"""
    r"""(?:=|\bby extra\()\s*["'](?P<value>[^"']*)["']"""
)
_LEVEL: Final = re.compile(
    r"""\b(?P<key>sourceCompatibility|targetCompatibility|options\.release|release|languageVersion|jvmToolchain|jvmTarget)\b"""
    r"""(?:\.set|\s*=|\()\s*\(?\s*(?:project\.)?(?:JavaVersion\.toVersion\(|JavaLanguageVersion\.of\(|JavaVersion\.|JvmTarget\.)?\s*["']?(?P<value>\$?\{?[\w.]+\}?)"""
)
_ORDER: Final = (
    "languageVersion",
    "jvmToolchain",
    "options.release",
    "release",
    "sourceCompatibility",
    "targetCompatibility",
    "jvmTarget",
)
_USED: Final = re.compile(r"\$\{?([A-Za-z_][\w.]*)\}?")
_COMMENT: Final = re.compile(r"""(?P<text>'(?:\\.|[^'\\])*'|"(?:\\.|[^"\\])*")|//.*|/\*(?P<block>.*?\*/)?""")
"""Texts in quotes, which may hold what looks like a comment (``'**/*.java'``), and comments."""
_LONGEST: Final = 2_000  # characters of a line of a script, or of a value; longer ones are data
_LOCK: Final = re.compile(r"^(?P<group>[\w.-]+):(?P<name>[\w.-]+):(?P<version>[^=\s]+)=")


def read_gradle(document: Document, module: Module) -> None:
    """Dependencies of every configuration, and the Java that the code is compiled for."""
    home = _home(document.path, document.texts)
    known = {**_properties(home, document.texts), **_properties(posixpath.dirname(document.path), document.texts)}
    lines = list(_code(document.text))
    for root in {posixpath.join(home, name) if home else name for name in ("build.gradle", "build.gradle.kts")} - {
        document.path
    }:
        known.update(_variables(_code(document.texts.get(root, ""))))
    known.update(_variables(lines))
    module.name = _root_name(home, document) or module.name
    module.pins.extend(_levels(document.path, lines, known))
    catalogue = _catalogue(document.texts.get(posixpath.join(home, "gradle", "libs.versions.toml"), ""))
    for number, raw in lines:
        found = _CONFIGURATION.match(raw)
        if found is not None:
            module.requirements.extend(_stated(document.path, number, raw, found.group("conf"), known, catalogue))


def read_nothing(_document: Document, _module: Module) -> None:
    """Files that only the scripts beside them read."""


def read_gradle_lock(document: Document, module: Module) -> None:
    """``gradle.lockfile``: one release a line."""
    for number, raw in enumerate(document.text.splitlines(), 1):
        found = _LOCK.match(raw)
        if found is not None:
            coordinate = maven(f"{found.group('group')}/{found.group('name')}")
            module.locked.append(Locked(coordinate, found.group("version"), document.path, number))


def _code(text: str) -> Iterator[tuple[int, str]]:
    """Numbered lines without comments."""
    inside = False
    for number, raw in enumerate(text.splitlines(), 1):
        if len(raw) > _LONGEST:
            continue
        if inside:
            inside = "*/" not in raw
            continue
        plain, kept = "", 0
        for found in _COMMENT.finditer(raw):
            if found.group("text") is None:
                plain, kept = plain + raw[kept : found.start()], found.end()
                inside = found.group().startswith("/*") and found.group("block") is None
                if inside:
                    kept = len(raw)
                    break
        yield number, plain + raw[kept:]


def _home(path: str, texts: Mapping[str, str]) -> str:
    """The folder of the build that a script belongs to: the nearest above it with settings."""
    at = posixpath.dirname(path)
    while True:
        if any(posixpath.join(at, name) in texts for name in _SETTINGS):
            return at
        if not at:
            return posixpath.dirname(path)
        at = posixpath.dirname(at)


def _properties(folder: str, texts: Mapping[str, str]) -> dict[str, str]:
    content = texts.get(posixpath.join(folder, "gradle.properties"), "")
    pairs = (raw.split("=", 1) for raw in content.splitlines() if "=" in raw and not raw.lstrip().startswith("#"))
    return {name.strip(): value.strip() for name, value in pairs if len(value) <= _LONGEST}


def _variables(lines: Iterator[tuple[int, str]] | list[tuple[int, str]]) -> dict[str, str]:
    found = {}
    for _, raw in lines:
        for match in _VARIABLE.finditer(raw):
            found[match.group("name").removeprefix("ext.")] = match.group("value")
    return found


def _filled(text: str, known: Mapping[str, str]) -> str:
    """A text with the variables it names; empty where one is not known."""
    missing = False

    def value(found: re.Match[str]) -> str:
        nonlocal missing
        name = found.group(1)
        held = known.get(name) or known.get(name.rpartition(".")[2])
        missing = missing or held is None
        return held or ""

    shown = _USED.sub(value, text)
    return "" if missing or len(shown) > _LONGEST else shown


def _root_name(home: str, document: Document) -> str:
    if posixpath.dirname(document.path) != home:
        return ""
    for name in _SETTINGS:
        found = re.search(
            r"""rootProject\.name\s*=\s*['"]([^'"]+)['"]""", document.texts.get(posixpath.join(home, name), "")
        )
        if found is not None:
            return found.group(1)
    return ""


def _levels(path: str, lines: list[tuple[int, str]], known: Mapping[str, str]) -> list[Pin]:
    """The strongest statement of the script."""
    found: list[tuple[int, Pin]] = []
    for number, raw in lines:
        for match in _LEVEL.finditer(raw):
            value = match.group("value")
            level = level_of(value) or level_of(known.get(value, "")) or level_of(_filled(value, known))
            if level is not None:
                found.append(
                    (
                        _ORDER.index(match.group("key")),
                        Pin(coordinate=JAVA, version=level, file=path, line=number, how="pin", text=raw.strip()),
                    )
                )
    return [min(found, key=lambda pair: pair[0])[1]] if found else []


def _stated(
    path: str,
    number: int,
    raw: str,
    configuration: str,
    known: Mapping[str, str],
    catalogue: Mapping[str, tuple[str, str]],
) -> Iterator[Requirement]:
    group = "test" if "test" in configuration.lower() else "build" if configuration == "classpath" else ""
    for found in (*_NOTATION.finditer(raw), *_MAP.finditer(raw)):
        name = f"{found.group('group')}:{found.group('name')}"
        version = (found.group("version") or "").strip("'\"")
        wanted = _filled(version, known) if "$" in version else known.get(version, version)
        yield Requirement(coordinate=maven(name), name=name, specifier=wanted, file=path, line=number, group=group)
    for alias in _CATALOGUE.finditer(raw):
        entry = catalogue.get(alias.group("alias").removesuffix(".get").lower())
        if entry is not None:
            yield Requirement(
                coordinate=maven(entry[0]), name=entry[0], specifier=entry[1], file=path, line=number, group=group
            )


@lru_cache(maxsize=4)  # all scripts of a build have the same one
def _catalogue(text: str) -> Mapping[str, tuple[str, str]]:
    """Alias with dots → (GROUP:NAME, version) of ``gradle/libs.versions.toml``."""
    try:
        body = parse_toml(text)
    except ValueError:
        return {}
    versions = table(body.get("versions"))
    found = {}
    for alias, entry in table(body.get("libraries")).items():
        made = _library(entry, versions)
        if made is not None:
            found[re.sub(r"[-_]", ".", str(alias)).lower()] = made
    return found


def _library(entry: object, versions: Mapping[str, object]) -> tuple[str, str] | None:
    if isinstance(entry, str):
        group, _, rest = entry.partition(":")
        name, _, version = rest.partition(":")
        return (f"{group}:{name}", version) if group and name else None
    held = table(entry)
    module = held.get("module") or f"{held.get('group', '')}:{held.get('name', '')}"
    stated = held.get("version")
    if isinstance(stated, Mapping):
        reference = stated.get("ref")
        stated = (
            versions.get(str(reference))
            if reference
            else stated.get("strictly") or stated.get("require") or stated.get("prefer")
        )
    if isinstance(stated, Mapping):
        stated = stated.get("strictly") or stated.get("require") or stated.get("prefer")
    named = isinstance(module, str) and module.count(":") == 1 and not module.startswith(":")
    version = stated if isinstance(stated, str) and len(stated) <= _LONGEST else ""
    return (str(module), version) if named else None


def read_catalogue(document: Document, module: Module) -> None:
    """A catalogue by itself only says whether it can be read; scripts name what they take of it."""
    try:
        parse_toml(document.text)
    except ValueError as error:
        line = line_of_text(document.text, "[")
        module.faults.append(Fault(document.path, f"line {line}: not valid TOML: {error}"))
