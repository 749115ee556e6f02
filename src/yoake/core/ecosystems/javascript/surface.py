"""The surface of an npm package read from its files: by its declaration files, where it has none by its exports.

Read, never run. What a module builds while it runs cannot be seen: such a module is marked as not read.
"""

from __future__ import annotations

import json
import posixpath
import re
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Any, Final

from yoake.core.ecosystems.javascript.declarations import Declarations, Declared, read_declarations
from yoake.core.ecosystems.javascript.exports import WHOLE
from yoake.core.ecosystems.javascript.project import JsProject
from yoake.core.ecosystems.javascript.specifiers import as_part
from yoake.core.ecosystems.javascript.syntax import read_javascript
from yoake.core.values.symbols import SurfaceSymbol

if TYPE_CHECKING:
    from yoake.core.values.facts import FileFacts

_TYPES: Final = (".d.ts", ".d.mts", ".d.cts")
_SCRIPTS: Final = (".js", ".cjs", ".mjs")
_MAX_SCRIPT: Final = 1_500_000
_MAX_HOPS: Final = 12  # re-exports of re-exports of declaration files
_INNER: Final = re.compile(
    r"(^|/)(tests?|__tests__|examples?|docs?|node_modules|umd|benchmarks?|\.[^/]+)/|[.-]min\.js$"
)
_MAX_DEPTH: Final = 2  # folders of modules that a package without an export map lets others reach

Symbols = dict[str, SurfaceSymbol]


def read_npm_package(name: str, files: Mapping[str, bytes], types: Mapping[str, bytes] | None = None) -> Symbols:
    """Symbols of a package. ``files``: path inside it → bytes; ``types``: files of a package of declarations beside it."""
    reader = _Reader(name, files)
    entries = list(reader.entries())
    found: Symbols = {}
    for module, target, declared in entries:
        reader.module(module, target, declared, found)
    if types and not any(declared for _, _, declared in entries):
        beside = _Reader(name, types)
        for module, target, declared in beside.entries():
            if declared or module in found:
                beside.module(module, target, declared, found)
    reader.inner_modules(found, bool(reader.manifest.get("exports")))
    return found


class _Reader:
    """Reads the files of one package."""

    def __init__(self, name: str, files: Mapping[str, bytes]) -> None:
        self.name = name
        self.files = files
        self.manifest = _manifest(files.get("package.json", b"{}"))
        self._declarations: dict[str, Declarations] = {}
        self._facts: dict[str, FileFacts] = {}

    # Where a package can be entered --------------------------------------------------------------------------------

    def entries(self) -> Iterator[tuple[str, str, str]]:
        """(specifier, script, declaration file) of each entry; a file that does not exist is empty."""
        exported = self.manifest.get("exports")
        types = self.manifest.get("types") or self.manifest.get("typings")
        if isinstance(exported, (str, list)) or (
            isinstance(exported, dict) and not any(k.startswith(".") for k in exported)
        ):
            exported = {".": exported}
        if isinstance(exported, dict):
            for key, value in exported.items():
                if "*" in key or not key.startswith(".") or key.endswith((".json", ".css", "/")):
                    continue
                script, declared = _conditions(value)
                if key == ".":
                    declared = declared or str(types or "")
                yield self._entry(posixpath.normpath(posixpath.join(self.name, key)), script, declared)
            return
        main = self.manifest.get("main") or self.manifest.get("module") or "index.js"
        yield self._entry(self.name, str(main), str(types or ""))
        yield from self._folders()

    def _folders(self) -> Iterator[tuple[str, str, str]]:
        """Folders that say by a manifest of their own what is entered through them, as packages did before there were export maps."""
        for path in self.files:
            folder = path.removesuffix("/package.json")
            if folder == path or _INNER.search(path) or path.count("/") > _MAX_DEPTH:
                continue
            manifest = _manifest(self.files[path])
            main, types = (manifest.get(key) or "" for key in ("main", "types"))
            declared = str(types or manifest.get("typings") or "")
            if main or declared:
                script, declared = (f"{folder}/{file}" if file else "" for file in (str(main), declared))
                yield self._entry(posixpath.join(self.name, folder), script, declared)

    def _entry(self, module: str, script: str, declared: str) -> tuple[str, str, str]:
        script_file = self._script(script) if script else ""
        declared_file = self._types(declared) if declared else ""
        if not declared_file and script_file:
            declared_file = self._types(re.sub(r"\.[cm]?js$", "", script_file))
        return module, script_file, declared_file

    def _script(self, path: str) -> str:
        plain = posixpath.normpath(path.removeprefix("./"))
        tried = (plain, *(f"{plain}{end}" for end in _SCRIPTS), *(f"{plain}/index{end}" for end in _SCRIPTS))
        return next((t for t in tried if t in self.files), "")

    def _types(self, path: str) -> str:
        plain = posixpath.normpath(path.removeprefix("./"))
        beside = re.sub(r"\.[cm]?[jt]sx?$", "", plain)  # “a.d.js” is declared by “a.d.d.ts”
        stem = beside.removesuffix(".d")
        tried = (
            plain,
            *(f"{each}{end}" for each in dict.fromkeys((beside, stem)) for end in _TYPES),
            *(f"{plain}/index{end}" for end in _TYPES),
            f"{stem}.ts",
        )
        return next((t for t in tried if t in self.files and t.endswith((".ts", ".mts", ".cts"))), "")

    # One module ------------------------------------------------------------------------------------------------------

    def module(self, specifier: str, script: str, declared: str, found: Symbols) -> None:
        """The symbols of one entry."""
        root = as_part(specifier)
        found[root] = SurfaceSymbol(kind="m")
        if declared:
            whole = self._declared_module(declared, root, found)
        elif script:
            whole = self._scripted_module(script, root, found)
        else:
            found[root].unread = whole = True
        if whole and f"{root}.default" not in found:
            found[f"{root}.default"] = SurfaceSymbol(kind="v", alias=root)

    def _declared_module(self, path: str, root: str, found: Symbols) -> bool:
        """By its declarations; says whether the module itself is the default export."""
        file = self._declaration(path)
        if file.whole:
            held = self._follow(path, file.whole, 0)
            if held is not None:
                self._inside(held, root, found, 0)
            else:
                found[root].unread = True
            return True
        for name in self._names(path, set()):
            held = self._exported(path, name, 0)
            self._declare(f"{root}.{name}", held, found, 0)
        if any(self._resolve(path, star) == "" for star in file.stars):
            found[root].unread = True
        return False

    def _declare(self, path: str, held: Declared | None, found: Symbols, depth: int) -> None:
        if held is None:
            found[path] = SurfaceSymbol(kind="v", unread=True)
            return
        found[path] = held.symbol
        self._inside(held, path, found, depth)

    def _inside(self, held: Declared, path: str, found: Symbols, depth: int) -> None:
        if depth > 2:
            return
        for name, inner in held.inner.items():
            self._declare(f"{path}.{name}", inner, found, depth + 1)
        if held.members:
            found[f"{path}()"] = SurfaceSymbol(kind="c", unread=bool(held.base))
            for name, symbol in held.members.items():
                found[f"{path}().{name}"] = symbol

    def _declaration(self, path: str) -> Declarations:
        if path not in self._declarations:
            self._declarations[path] = read_declarations(self.files[path])
        return self._declarations[path]

    def _resolve(self, path: str, specifier: str) -> str:
        if specifier.startswith("."):
            return self._types(posixpath.join(posixpath.dirname(path), specifier))
        if specifier == self.name or specifier.startswith(f"{self.name}/"):
            return self._types(specifier[len(self.name) + 1 :] or "index")
        return ""

    def _names(self, path: str, seen: set[str]) -> list[str]:
        """Names a declaration file exports, star exports followed."""
        if path in seen or not path:
            return []
        seen.add(path)
        file = self._declaration(path)
        names = list(file.exports) if file.is_module else list(file.local)
        for star in file.stars:
            names.extend(n for n in self._names(self._resolve(path, star), seen) if n != "default")
        return list(dict.fromkeys(names))

    def _exported(self, path: str, name: str, hops: int) -> Declared | None:
        file = self._declaration(path)
        if hops > _MAX_HOPS:
            return None
        if name in file.exports:
            source, inner = file.exports[name]
            if source:
                return self._from(path, source, inner, hops)
            return self._follow(path, inner, hops)
        if not file.is_module:
            return file.local.get(name)
        for star in file.stars:
            target = self._resolve(path, star)
            if target and name in self._names(target, set()):
                return self._exported(target, name, hops + 1)
        return None

    def _from(self, path: str, source: str, name: str, hops: int) -> Declared | None:
        target = self._resolve(path, source)
        if not target:
            return None
        if name == "*":
            inner = {n: self._exported(target, n, hops + 1) for n in self._names(target, set())}
            return Declared(SurfaceSymbol(kind="v"), {n: held for n, held in inner.items() if held is not None})
        return self._exported(target, name, hops + 1)

    def _follow(self, path: str, name: str, hops: int) -> Declared | None:
        """A local name, or what was imported under it."""
        file = self._declaration(path)
        if name in file.local:
            return file.local[name]
        if name in file.imports and hops <= _MAX_HOPS:
            source, inner = file.imports[name]
            return self._from(path, source, inner, hops)
        return None

    # By its exports ----------------------------------------------------------------------------------------------------

    def _scripted_module(self, path: str, root: str, found: Symbols) -> bool:
        """By what the script assigns; says whether the module itself is the default export."""
        names, known, whole = self._script_exports(path, 0)
        for name in names:
            found.setdefault(f"{root}.{name}", SurfaceSymbol(kind="v", unread=True))
        found[root].unread = not known
        return whole

    def _script_exports(self, path: str, hops: int) -> tuple[list[str], bool, bool]:
        """(names, whether these are all, whether the module is CommonJS)."""
        facts = self._fact(path)
        if facts is None or hops > _MAX_HOPS:
            return [], False, True
        names = [n for n in facts.exports if n != WHOLE]
        whole = facts.exports.get(WHOLE)
        known = bool(names or whole is not None)
        for onward in (*facts.stars, *(w for w in whole or () if w)):
            local, target = JsProject(self._facts).file_of(onward.split(".", 1)[0], path)
            target = target or (self._beside(path, onward) if local else None)
            if target is None or "." in onward:
                known = False
                continue
            inner, all_known, _ = self._script_exports(target, hops + 1)
            names.extend(inner)
            known = known and all_known
        if whole == ("",) and not names:
            known = False
        is_module = bool(facts.stars) or "default" in facts.exports or b"export " in self.files[path][:200_000]
        return list(dict.fromkeys(names)), known, not is_module

    def _beside(self, path: str, onward: str) -> str | None:
        specifier = onward.replace("\u2024", ".")
        return self._script(posixpath.join(posixpath.dirname(path), specifier)) or None

    def _fact(self, path: str) -> FileFacts | None:
        if path not in self._facts:
            data = self.files.get(path, b"")
            if not path.endswith(_SCRIPTS) or len(data) > _MAX_SCRIPT:
                return None
            self._facts[path] = read_javascript(data)
        return self._facts[path]

    def inner_modules(self, found: Symbols, mapped: bool) -> None:
        """Files that others may reach by a path where no export map forbids it."""
        if mapped:
            for specifier in self._mapped_files():
                found.setdefault(as_part(specifier), SurfaceSymbol(kind="m", unread=True))
            return
        for path in self.files:
            plain = re.sub(r"(/index)?\.[cm]?js$", "", path)
            if plain == path or _INNER.search(path) or path.count("/") > _MAX_DEPTH or plain == "index":
                continue
            for specifier in (f"{self.name}/{plain}", f"{self.name}/{path}"):
                found.setdefault(as_part(specifier), SurfaceSymbol(kind="m", unread=True))

    def _mapped_files(self) -> Iterator[str]:
        """What may be entered by entries with a star: ``./locales/*`` for ``./locales/*.js``."""
        exported = self.manifest.get("exports")
        for key, value in exported.items() if isinstance(exported, dict) else ():
            if not key.startswith(".") or key.count("*") != 1:
                continue
            for target in dict.fromkeys(_conditions(value)):
                before, star, after = posixpath.normpath(target).partition("*")
                for path in self.files if star else ():
                    if path.startswith(before) and path.endswith(after) and len(path) >= len(before) + len(after):
                        inside = path[len(before) : len(path) - len(after)]
                        yield posixpath.normpath(posixpath.join(self.name, key.replace("*", inside)))


def _manifest(data: bytes) -> dict[str, Any]:
    try:
        body = json.loads(data)
    except (ValueError, RecursionError):
        return {}
    return body if isinstance(body, dict) else {}


def _conditions(value: Any) -> tuple[str, str]:
    """(script, declaration file) of one entry of an export map, whatever its conditions."""
    if isinstance(value, str):
        return (value, "") if not value.endswith(_TYPES) else ("", value)
    if isinstance(value, list):
        return _conditions(value[0]) if value else ("", "")
    if not isinstance(value, dict):
        return "", ""
    script = declared = ""
    for key in ("types", "typings"):
        if isinstance(value.get(key), str):
            declared = declared or value[key]
    for key in ("require", "node", "default", "import", "browser", *value):
        inner_script, inner_declared = _conditions(value.get(key)) if key not in ("types", "typings") else ("", "")
        script, declared = script or inner_script, declared or inner_declared
    return script, declared
