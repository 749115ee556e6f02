"""``package.json``, its lock files and TypeScript configurations: what a JavaScript module requires and states."""

from __future__ import annotations

import json
import posixpath
import re
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, Final

from yoake.core.contract.texts import line_numbers, line_of_text, table
from yoake.core.ecosystems.javascript.names import NODE, npm
from yoake.core.ecosystems.javascript.respecify import dependency_ranges
from yoake.core.values.modules import Fault, Locked, Module, Pin, Requirement

if TYPE_CHECKING:
    from yoake.core.values.words import StatedHow

MANIFESTS: Final = ("package.json",)
LOCKS: Final = ("package-lock.json", "npm-shrinkwrap.json", "yarn.lock", "pnpm-lock.yaml")
CONFIGURATIONS: Final = ("tsconfig.json", "jsconfig.json", "tsconfig.base.json")
NAME: Final = re.compile(r"(@[a-z0-9~-][a-z0-9._~-]*/)?[a-z0-9~_-][a-z0-9._~-]*$", re.IGNORECASE)
_GROUPS: Final = {
    "dependencies": "",
    "optionalDependencies": "optional",
    "peerDependencies": "peer",
    "devDependencies": "dev",
}
_COMMENT: Final = re.compile(r'"(?:[^"\\]|\\.)*+"?|//[^\n]*+|/\*(?:.*?\*/|.*+)', re.DOTALL)
"""Strings and comments; what is never closed reaches to the end, so that nothing is looked through twice."""

_TRAILING: Final = re.compile(r",(\s*+[}\]])")
_YARN_ENTRY: Final = re.compile(r'^"?(@?[^@"\s]+)@')
_YARN_VERSION: Final = re.compile(r'^\s+version:?\s+"?([^"\s]+)"?')
_LONGEST_KEY: Final = 500  # characters of a line that can be a key; the pattern looks at each part of one several times
_PNPM_ENTRY: Final = re.compile(r"^\s{2}['\"]?/?(@?[^@\s'\"]+?)[@/](\d[^():'\"\s_]*)[^:]*['\"]?:\s*$")


def read_package_json(path: str, content: str, module: Module) -> None:
    """Dependencies of every group, engines, and the names by which others import the module."""
    body = _object(path, content, module)
    if body is None:
        return
    module.import_name = str(body.get("name") or "")
    module.name = module.import_name or module.name
    main = body.get("source") or body.get("module") or body.get("main")
    module.main = main if isinstance(main, str) else ""
    engines = body.get("engines")
    for where in (engines, body.get("volta"), table(body.get("devEngines")).get("runtime")):
        version = where.get("node") or where.get("version") if isinstance(where, Mapping) else None
        if isinstance(version, str) and version.strip():
            line = line_of_text(content, '"node"')
            how: StatedHow = "range" if where is engines else "pin"
            module.pins.append(
                Pin(
                    coordinate=NODE,
                    version=version.strip(),
                    file=path,
                    line=line,
                    how=how,
                    text=f'"node": "{version.strip()}"',
                )
            )
    seen: set[str] = set()
    numbers = {
        (group, name): content.count("\n", 0, start) + 1
        for group, name, start, _ in dependency_ranges(content, frozenset(_GROUPS))
    }
    for key, group in _GROUPS.items():
        for name, specifier in table(body.get(key)).items():
            if not isinstance(specifier, str):
                continue
            if not NAME.match(name):
                module.faults.append(Fault(path, f"“{name[:60]}” in {key} is no package name; it was left out"))
                continue
            if name not in seen:
                seen.add(name)
                line = numbers.get((key, name), 1)
                module.requirements.append(
                    Requirement(coordinate=npm(name), name=name, specifier=specifier, file=path, line=line, group=group)
                )


def package_json_ranges(text: str, requirement: Requirement) -> list[tuple[int, int]]:
    """Where package.json gives ranges for a package, (from, to) in characters: every group names it once at most."""
    return [(a, b) for _, name, a, b in dependency_ranges(text, frozenset(_GROUPS)) if name == requirement.name]


def read_package_lock(path: str, content: str, module: Module) -> None:
    """``package-lock.json`` of every version: exact releases, those at the top first."""
    body = _object(path, content, module)
    if body is None:
        return
    numbers = line_numbers(content)
    packages = body.get("packages")
    if isinstance(packages, Mapping):
        for place, entry in packages.items():
            if "node_modules/" not in place or not isinstance(entry, Mapping) or entry.get("link"):
                continue
            name = place.rsplit("node_modules/", 1)[1]
            _lock(module, name, entry.get("version"), path, numbers.get(place, 1), place.count("node_modules/") > 1)
        return
    waiting: list[tuple[Mapping[str, Any], bool]] = [(table(body.get("dependencies")), False)]
    while waiting:
        entries, nested = waiting.pop()
        for name, entry in entries.items():
            if isinstance(entry, Mapping):
                _lock(module, name, entry.get("version"), path, numbers.get(name, 1), nested)
                waiting.append((table(entry.get("dependencies")), True))


def read_yarn_lock(path: str, content: str, module: Module) -> None:
    """``yarn.lock`` of both formats: an entry line, its version below."""
    name = ""
    seen: set[str] = set()
    for number, raw in enumerate(content.splitlines(), 1):
        entry = _YARN_ENTRY.match(raw)
        if entry:
            name = entry.group(1)
            continue
        version = _YARN_VERSION.match(raw)
        if version and name:
            _lock(module, name, version.group(1), path, number - 1, name in seen)
            seen.add(name)
            name = ""


def read_pnpm_lock(path: str, content: str, module: Module) -> None:
    """``pnpm-lock.yaml``: the keys below ``packages``."""
    seen: set[str] = set()
    inside = False
    for number, raw in enumerate(content.splitlines(), 1):
        if raw and not raw[0].isspace():
            inside = raw.startswith("packages:")
        found = _PNPM_ENTRY.match(raw) if inside and len(raw) < _LONGEST_KEY else None
        if found:
            _lock(module, found.group(1), found.group(2), path, number, found.group(1) in seen)
            seen.add(found.group(1))


def read_configuration(path: str, content: str, module: Module) -> None:
    """``paths`` and ``baseUrl`` of a TypeScript configuration, which is JSON with comments."""
    plain = _COMMENT.sub(lambda m: m.group() if m.group().startswith('"') else "", content)
    try:
        body = json.loads(_TRAILING.sub(r"\1", plain))
    except (ValueError, RecursionError) as error:
        module.faults.append(Fault(path, f"not readable as JSON with comments: {error}"))
        return
    options = table(table(body).get("compilerOptions"))
    base = posixpath.normpath(posixpath.join(posixpath.dirname(path), str(options.get("baseUrl") or ".")))
    for prefix, targets in table(options.get("paths")).items():
        folders = [t for t in targets if isinstance(t, str)] if isinstance(targets, list) else []
        places = tuple(posixpath.normpath(posixpath.join(base, t.removesuffix("*"))) for t in folders)
        if prefix.strip("*") and places:
            module.aliases.append((prefix.removesuffix("*"), places))


def _object(path: str, content: str, module: Module) -> dict[str, Any] | None:
    try:
        body = json.loads(content)
    except (ValueError, RecursionError) as error:
        module.faults.append(Fault(path, f"not valid JSON: {error}"))
        return None
    if not isinstance(body, dict):
        module.faults.append(Fault(path, "no JSON object at its top"))
        return None
    return body


def _lock(module: Module, name: str, version: object, file: str, line: int, nested: bool) -> None:
    if isinstance(version, str) and version[:1].isdigit() and NAME.match(name):
        module.locked.append(Locked(npm(name), version, file, line, nested))
