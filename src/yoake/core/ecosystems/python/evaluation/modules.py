"""Python files by the dotted names under which imports find them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final

VENDORED: Final = re.compile(r"(?:^|\.)(?:_vendor|vendor|_vendored|vendored|third_party)\.(?=\w)")
"""Where other people's code begins inside a source; behind it stands its own name."""
_STARTS: Final = ("manage.py", "wsgi.py", "main.py", "__main__.py", "run.py", "app.py", "core/settings.py")
"""Files by which a program is started; their folder is on the path."""


class ModuleIndex:
    """Which file a dotted name means, seen from another file.

    Nothing says which folders are on the path when a program starts, so every folder may be: the name that reaches the
    farthest from a folder without ``__init__`` wins, then the file that is the nearest to the one that imports. ``apart``: first
    names of packages that are not looked for inside other packages, though a folder there has the same name.
    """

    def __init__(self, paths: Iterable[str], apart: Iterable[str] = ()) -> None:
        self._apart = frozenset(apart)
        self._files: dict[str, list[str]] = {}
        self.folders: set[str] = set()
        known = self._paths = set(paths)
        for path in sorted(known):
            if not path.endswith(".py"):
                continue
            stem = path.removesuffix(".py").removesuffix("/__init__")
            parts = stem.split("/")
            for start in range(len(parts)):
                self._files.setdefault(".".join(parts[start:]), []).append(path)
            for end in range(1, len(parts)):
                self.folders.add("/".join(parts[:end]))
        self._packages = {path.rsplit("/", 1)[0] for path in known if path.endswith("/__init__.py")}

    def _root(self, path: str, name: str) -> str:
        depth = name.count(".") + 1
        parts = path.removesuffix(".py").removesuffix("/__init__").split("/")
        return "/".join(parts[: len(parts) - depth])

    def find(self, name: str, file: str) -> str | None:
        """The file of a dotted name; None where it is not in the source."""
        found = self._files.get(name)
        if not found:
            return None
        whole = [path for path in found if self._root(path, name) not in self._packages]
        if (
            not whole and name.split(".", maxsplit=1)[0] not in self._apart
        ):  # reached only by beginning inside a package: so programs do whose folder is put on the path
            whole = [path for path in found if self._is_started_in(self._root(path, name))]
        if not whole:
            return None
        return max(whole, key=lambda path: (_common(self._root(path, name), file), -len(path)))

    def _is_started_in(self, root: str) -> bool:
        return any(f"{root}/{start}" in self._paths for start in _STARTS)

    def folder(self, name: str, file: str) -> str | None:
        """A folder without ``__init__`` that a dotted name means."""
        if name.split(".", maxsplit=1)[0] in self._apart:
            return None
        ending = name.replace(".", "/")
        found = [f for f in self.folders if f == ending or f.endswith(f"/{ending}")]
        found = [
            f for f in found if f.removesuffix(ending).rstrip("/") not in self._packages and f not in self._packages
        ]
        return max(found, key=lambda f: (_common(f, file), -len(f))) if found else None

    def relative(self, level: int, name: str, file: str) -> tuple[str | None, str | None]:
        """(file, folder) that ``from ..name import`` means."""
        folder = file.rpartition("/")[0]
        for _ in range(level - 1):
            folder = folder.rpartition("/")[0]
        path = "/".join(filter(None, (folder, name.replace(".", "/"))))
        return self.at(path), path if path in self.folders or not path else None

    def at(self, path: str) -> str | None:
        """The file of a module by its path without ending."""
        key = path.replace("/", ".")
        for ending in (f"{path}.py", f"{path}/__init__.py" if path else "__init__.py"):
            if ending in self._files.get(key, ()) or (not path and ending in self._files.get("__init__", ())):
                return ending
        return None


def _common(left: str, right: str) -> int:
    count = 0
    for one, other in zip(left.split("/"), right.split("/"), strict=False):
        if one != other:
            break
        count += 1
    return count
