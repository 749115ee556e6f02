"""A Java project's own files: what a plain name means in one of them, and which classes are its own."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.contract.locality import Resolved
from yoake.core.ecosystems.java.names import UNQUALIFIED, package_part

if TYPE_CHECKING:
    from yoake.core.values.facts import ClassFact, FileFacts

_LANG: Final = package_part("java.lang")


class JavaProject:
    """Index of the Java files of one scan. The first star of a file is its own package, the others its star imports."""

    def __init__(self, facts: Mapping[str, FileFacts]) -> None:
        self.facts = facts
        self.files: dict[str, dict[str, str]] = {}  # package → top-level type → file
        for path in sorted(facts):
            package = facts[path].stars[0] if facts[path].stars else ""
            held = self.files.setdefault(package, {})
            for name in facts[path].exports:
                held.setdefault(name, path)
        self._meant: dict[tuple[tuple[str, ...], str], str | Resolved | None] = {}

    def is_local(self, name: str) -> bool:
        """Whether a package is one of the project's own."""
        return name in self.files

    def _own_file(self, path: str) -> str | None:
        """The file of a type of the project by its full path."""
        package, _, rest = path.partition(".")
        return self.files.get(package, {}).get(rest.split(".", 1)[0]) if rest else None

    def _plain(self, path: str, file: str) -> str | Resolved | None:
        """What ``~Name.member`` means: a path of the project, a path outside with those it may be instead, or nothing."""
        name, dot, rest = path[len(UNQUALIFIED) :].partition(".")
        made, name = name.endswith("()"), name.removesuffix("()")
        key = (self.facts[file].stars, name)
        if key not in self._meant:
            self._meant[key] = self._find(*key)
        found = self._meant[key]
        if found is None:
            return None
        tail = f"{'()' if made else ''}{dot}{rest}"
        if isinstance(found, str):
            return f"{found}{tail}"
        return Resolved(f"{found.path}{tail}", others=tuple(f"{o}{tail}" for o in found.others), settled=True)

    def _find(self, stars: tuple[str, ...], name: str) -> str | Resolved | None:
        outside = []
        for star in stars:
            package, _, holder = star.partition(".")
            if not holder and name in self.files.get(package, {}):
                return f"{star}.{name}"
            if star not in self.files:
                outside.append(f"{star}.{name}")
        ways = tuple(dict.fromkeys((*outside, f"{_LANG}.{name}")))
        return Resolved(ways[0], others=ways[1:], settled=True)

    def resolve(self, path: str, file: str) -> Resolved | None:
        """Where a use in ``file`` leads outside the project; None when it ends inside it."""
        if path.startswith(UNQUALIFIED):
            found = self._plain(path, file)
            return found if isinstance(found, Resolved) else None
        if path.startswith(":") or self._own_file(path) is not None:
            return None
        return None if "." not in path and path in self.files else Resolved(path)

    def find_class(self, path: str, file: str) -> tuple[str, str, ClassFact] | None:
        """(file, qualified name, class) of a project class that ``path`` names in ``file``."""
        if path.startswith(":"):
            known = self.facts[file].classes.get(path[1:])
            return (file, path[1:], known) if known is not None else None
        if path.startswith(UNQUALIFIED):
            found = self._plain(path, file)
            if not isinstance(found, str):
                return None
            path = found
        target = self._own_file(path)
        known = self.facts[target].classes.get(path.partition(".")[2]) if target is not None else None
        return (target, path.partition(".")[2], known) if target is not None and known is not None else None

    def target_of(self, path: str, file: str) -> str | None:
        """The file of the project that an import names."""
        found = self._plain(path, file) if path.startswith(UNQUALIFIED) else path
        return self._own_file(found) if isinstance(found, str) else None
