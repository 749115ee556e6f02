"""A JavaScript project's own files: what a specifier means inside it, and where a re-exported name comes from."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.contract.locality import Resolved
from yoake.core.ecosystems.javascript.exports import WHOLE
from yoake.core.ecosystems.javascript.specifiers import as_part, as_specifier, package_of
from yoake.core.syntax.loads import joined

if TYPE_CHECKING:
    from yoake.core.values.facts import ClassFact, FileFacts

_RELATIVE: Final = as_part(".")
CALL: Final = "()"
"""Ends a name that is called: what it gives back is meant."""

_MAX_HOPS: Final = 8  # re-exports of re-exports; longer chains are loops
_ENDINGS: Final = ("", ".ts", ".tsx", ".js", ".jsx", ".mjs", ".cjs", ".mts", ".cts", ".vue", ".d.ts")
_SCRIPTS: Final = (".js", ".jsx", ".mjs", ".cjs")
_MAIN: Final = ("src/index", "index", "lib/index", "dist/index")


class JsProject:
    """Index of the JavaScript and TypeScript files of one scan.

    ``aliases`` are the ``paths`` of a TypeScript configuration, prefix → folders; ``packages`` the names of the project's own
    packages → folder and main file.
    """

    def __init__(
        self,
        facts: Mapping[str, FileFacts],
        aliases: Iterable[tuple[str, tuple[str, ...]]] = (),
        packages: Mapping[str, tuple[str, str]] | None = None,
    ) -> None:
        self.facts = facts
        self.aliases = sorted(aliases, key=lambda pair: -len(pair[0]))
        self.packages = packages or {}
        self._found: dict[tuple[str, str], tuple[bool, str | None]] = {}

    def is_local(self, name: str) -> bool:
        """Whether a specifier names a package of the project itself."""
        return package_of(as_specifier(name)) in self.packages

    def file_of(self, part: str, file: str) -> tuple[bool, str | None]:
        """(whether a specifier stays inside the project, the file it means there)."""
        key = (file.rpartition("/")[0] if part.startswith(_RELATIVE) else "", part)
        known = self._found.get(key)
        if known is None:
            known = self._found[key] = self._meant(as_specifier(part), key[0])
        return known

    def _meant(self, specifier: str, folder: str) -> tuple[bool, str | None]:
        if specifier.startswith((".", "/")):
            return True, self.at(posixpath.normpath(posixpath.join(folder, specifier.lstrip("/"))))
        for prefix, folders in self.aliases:
            if specifier == prefix or (prefix.endswith("/") and specifier.startswith(prefix)):
                for start in folders:
                    found = self.at(posixpath.normpath(posixpath.join(start, specifier[len(prefix) :])))
                    if found is not None:
                        return True, found
        own = self.packages.get(package_of(specifier))
        if own is not None:
            return True, self._in_package(own, specifier)
        return specifier.startswith("#"), None

    def target_of(self, path: str, file: str) -> str | None:
        """The file of the project that an import names; None when it leads outside."""
        return self.file_of(path.split(".", 1)[0], file)[1]

    def _in_package(self, own: tuple[str, str], specifier: str) -> str | None:
        folder, main = own
        inner = specifier[len(package_of(specifier)) :].strip("/")
        starts = (inner,) if inner else (main, *_MAIN) if main else _MAIN
        for start in starts:
            found = self.at(posixpath.normpath(posixpath.join(folder, start)))
            if found is not None:
                return found
        return None

    def at(self, path: str) -> str | None:
        """The file that a path without its ending, or of a folder, means."""
        stem = next((path.removesuffix(end) for end in _SCRIPTS if path.endswith(end)), path)
        for base in dict.fromkeys((path, stem)):
            for ending in _ENDINGS:
                if f"{base}{ending}" in self.facts:
                    return f"{base}{ending}"
        for ending in _ENDINGS[1:]:
            if f"{path}/index{ending}" in self.facts:
                return f"{path}/index{ending}"
        return None

    def resolve(self, path: str, file: str, hops: int = 0) -> Resolved | None:
        """Where a use in ``file`` leads outside the project; None when it ends inside it."""
        part, _, rest = path.partition(".")
        local, target = self.file_of(part.removesuffix(CALL), file)
        if not local:
            return Resolved(path)
        if target is None or not rest or hops > _MAX_HOPS:
            return None
        called = part.endswith(CALL)
        return self._through(target, [WHOLE + CALL, *rest.split(".")] if called else rest.split("."), hops)

    def _through(self, file: str, names: list[str], hops: int) -> Resolved | None:
        exports = self.facts[file].exports
        name, rest = names[0], names[1:]
        if name.endswith(CALL) and (given := self._given_back(file, name.removesuffix(CALL), hops)) is not None:
            return Resolved(joined(given.path, rest), given.path, given.guarded) if given.path else None
        targets = exports.get(name)
        if targets is None and name == "default" and "default" not in exports:
            if exports.get(WHOLE, ("",))[0]:
                targets = exports[WHOLE]
            elif rest:
                return self._through(file, rest, hops + 1) if hops <= _MAX_HOPS else None
        if targets is None and exports.get(WHOLE, ("",))[0]:
            targets, rest = exports[WHOLE], names
        if targets is None:
            return self._through_stars(file, names, hops)
        if not targets[0]:
            return None
        inner = self.resolve(targets[0], file, hops + 1)
        if inner is None:
            return None
        return Resolved(".".join([inner.path, *rest]), inner.path, inner.guarded, inner.others)

    def _given_back(self, file: str, name: str, hops: int) -> Resolved | None:
        """What a call of an exported name gives back: an empty path where nobody knows, None where the file does not export it."""
        exports = self.facts[file].exports
        if name == "default" and name not in exports:
            name = WHOLE
        given = exports.get(f"{name}{CALL}")
        if given is None and name not in exports:
            return None
        path = (given or exports[name])[0]
        inner = self.resolve(path, file, hops + 1) if path else None
        if inner is None:
            return Resolved("")
        return inner if given is not None else Resolved(f"{inner.path}{CALL}", guarded=inner.guarded)

    def _through_stars(self, file: str, names: list[str], hops: int) -> Resolved | None:
        for star in self.facts[file].stars:
            local, _ = self.file_of(star, file)
            inner = self.resolve(".".join([star, *names]), file, hops + 1) if local else None
            if inner is not None:
                return inner
        return None

    def find_class(self, path: str, file: str) -> tuple[str, str, ClassFact] | None:
        """(file, qualified name, class) of a project class that ``path`` names in ``file``."""
        for _ in range(_MAX_HOPS):
            if path.startswith(":"):
                known = self.facts[file].classes.get(path[1:])
                return (file, path[1:], known) if known else None
            part, _, rest = path.partition(".")
            local, target = self.file_of(part, file)
            if not local or target is None:
                return None
            name = rest or WHOLE
            if name in self.facts[target].classes:
                return target, name, self.facts[target].classes[name]
            onward = self.facts[target].exports.get(name, ("",))[0]
            if not onward:
                return None
            file, path = target, onward
        return None
