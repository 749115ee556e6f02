"""Whose work a file is, by what it says and what lies beside it: names of folders tell only half."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Container, Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from yoake.core.contract.source_files import MARKS

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry
    from yoake.core.values.words import FileRole

_HEAD: Final = 3_000  # bytes of a file in which it says whose it is
_LICENCE: Final = re.compile(
    r"^((mit|bsd|apache)[.-])?(licen[cs]e|copying)([.-](txt|md|rst|mit|bsd|apache|l?gpl|mpl)[\w.-]*)?$", re.IGNORECASE
)
_RELEASE_FOLDER: Final = re.compile(r"(?!api|v\d)([A-Za-z][\w.]*?)[-_]v?\d+\.\d+[\w.-]*$")
_SERVED: Final = frozenset(
    ("static", "assets", "public", "www", "wwwroot", "htdocs", "media", "js", "lib", "libs",
     "plugins", "resources", "scripts", "web")
)  # fmt: skip
"""Folders whose files are handed to a browser as they are."""
_PUT_TOGETHER: Final = frozenset(("build", "_build", "dist", "out", "target", "public", "site"))
"""Folders into which tools copy sources."""
_GENERATED: Final = re.compile(r"(^|/)generated[^/]*/")
_SAME_SIZE: Final = 200  # bytes; shorter files are often alike by chance
_MOST_OF_IT: Final = 0.3  # a folder with more of the application than this is the application, whatever lies in it
_SOURCES_HERE: Final = 0.3  # of what was built; names of files are lost where several become one
_SEVERAL: Final = 3  # known packages in one folder; fewer may be parts of the application that deal with them
_FEW: Final = 2  # modules of one author: more of them are a habit of the house

_COMMENT: Final = re.compile(
    rb"\A(?:\xef\xbb\xbf)?[\s;]*(?:['\"]use strict['\"];?\s*)?(?:(/\*[\s\S]{0,2500}?\*/)|((?:[ \t]*(?://|#)[^\n]*\n){1,40}))"
)
_LICENCE_NUMBER: Final = re.compile(
    rb"(?:licen[cs]es?|[LA]?GPL|MPL|OSL|BSD|CC|MIT|Apache|version)[^\n\d]{0,30}\d+(?:\.\d+)*", re.IGNORECASE
)
_VERSION: Final = re.compile(rb"(?:^|[\s@(/-])v?\d+\.\d+(?:\.\d+)?(?![\w%])", re.IGNORECASE)
_RIGHTS: Final = re.compile(rb"licen[cs]e|copyright|\(c\)\s|\xc2\xa9", re.IGNORECASE)
_HOLDER: Final = re.compile(
    rb"(?:copyright\s*(?:\(c\)|\xc2\xa9)?|\(c\)|\xc2\xa9)[\s\d,\xe2\x80\x93-]*(?:by\s+)?([^\W\d][^\n*,;|<(]{2,60})",
    re.IGNORECASE,
)
_AUTHOR: Final = re.compile(rb"^__author__\s*=\s*u?['\"]([^'\"]{2,})", re.MULTILINE)
_OWN_VERSION: Final = re.compile(rb"^__version__\s*=\s*u?['\"]\d", re.MULTILINE)
_OWN_LICENCE: Final = re.compile(
    rb"^__licen[cs]e__\s*=|licen[cs]ed? under|\bMIT Licen[cs]e\b", re.MULTILINE | re.IGNORECASE
)


@dataclass(frozen=True, kw_only=True)
class SourceFile:
    """A source as it is told apart: its role by its path alone, its bytes with their digest, and the dotted paths it imports."""

    role: FileRole
    data: bytes
    digest: str = ""
    imports: Collection[str] = ()


def roles_by_content(
    files: Mapping[str, SourceFile],
    paths: Collection[str],
    module_folders: Collection[str],
    names: Iterable[str],
    libraries: Container[str],
    ecosystems: Registry,
) -> dict[str, FileRole]:
    """Role of every source, its path and its content considered.

    ``paths``: every file there is, those that are no source too. ``module_folders`` have a manifest of their own; ``names`` are
    those of the application and its modules, ``libraries`` the first parts of paths that known packages have.
    Where nothing would be left that is the application's own, all of it is.
    """
    found: dict[str, FileRole] = {path: file.role for path, file in files.items()}
    found.update((path, "source") for path in _without_sources(files))
    own = {path: file for path, file in files.items() if found[path] in ("source", "test")}
    licences = {path for path in paths if ecosystems.language_of_file(path) is None}
    copied = _licensed_apart(own, licences, module_folders) | _installed(paths) | _bundled(own, libraries)
    spoken = {each.runtime.name for each in ecosystems.ecosystems} | {f.coordinate.name for f in ecosystems.frameworks}
    told = _Telling({_plain(name) for name in names}, own)
    for path, file in own.items():
        if _below(path, copied) or _in_release_folder(path, spoken):
            found[path] = "vendored"
        elif ecosystems.is_put_together(path, file.data):
            found[path] = "generated"
        elif told.is_foreign(path, file.data):
            found[path] = "vendored"
    found.update((path, "generated") for path in _copies(own))
    if not any(role == "source" for role in found.values()):
        return dict.fromkeys(files, "source")
    return found


def _without_sources(files: Mapping[str, SourceFile]) -> list[str]:
    """Files in folders for what is built, of which no source is here: they are all there is of the application.

    What a folder or a file calls generated has its source elsewhere: a description, not another program.
    """
    built: dict[str, list[str]] = {}
    stems = set()
    for path, file in files.items():
        folder = _built_folder(path)
        if not folder and file.role != "generated":
            stems.add(_stem(path))
        elif (
            folder
            and file.role == "generated"
            and not _GENERATED.search(path)
            and not MARKS.search(file.data, 0, _HEAD)
        ):
            built.setdefault(folder, []).append(path)
    found = []
    for held in built.values():
        if sum(1 for path in held if _stem(path) in stems) < _SOURCES_HERE * len(held):
            found.extend(held)
    return found


def _built_folder(path: str) -> str:
    parts = path.split("/")[:-1]
    at = next((n for n, part in enumerate(parts) if part in _PUT_TOGETHER), None)
    return "" if at is None else "/".join(parts[: at + 1])


def _stem(path: str) -> str:
    return path.rpartition("/")[2].partition(".")[0]


def _below(path: str, folders: Collection[str]) -> bool:
    while path:
        path = path.rpartition("/")[0]
        if path in folders and path:
            return True
    return False


def _licensed_apart(own: Collection[str], paths: Collection[str], module_folders: Collection[str]) -> set[str]:
    """Folders below the root with a licence of their own, which hold only a small part of the application and no module."""
    candidates = set()
    for path in paths:
        folder, _, name = path.rpartition("/")
        if folder and _LICENCE.match(name):
            candidates.add(folder)
    apart = set()
    for folder in candidates:
        inside = f"{folder}/"
        if any(module == folder or module.startswith(inside) for module in module_folders):
            continue
        held = sum(1 for path in own if path.startswith(inside))
        if held <= _MOST_OF_IT * len(own):
            apart.add(folder)
    return apart


def _installed(paths: Collection[str]) -> set[str]:
    """Folders below the root into which packages were installed: each with what its installer wrote beside it."""
    marks = {p.rpartition("/")[0] for p in paths if p.endswith((".dist-info/RECORD", ".dist-info/METADATA"))}
    return {folder for mark in marks if (folder := mark.rpartition("/")[0])}


def _bundled(own: Mapping[str, SourceFile], libraries: Container[str]) -> set[str]:
    """Folders below the root that hold several known packages, each of which imports itself as if it stood at the top."""
    held: dict[str, set[str]] = {}
    stands = {path.rpartition(".")[0] for path in own} | {path.rpartition("/")[0] for path in own}
    for path, file in own.items():
        folders = path.split("/")[:-1]
        for at in range(1, len(folders)):
            name = folders[at]
            if name in libraries and any(one.startswith(f"{name}.") for one in file.imports):
                inside = "/".join(folders[: at + 1])
                if any(f"{inside}/{one.split('.')[1]}" in stands for one in file.imports if one.startswith(f"{name}.")):
                    held.setdefault("/".join(folders[:at]), set()).add(name)
    return {folder for folder, names in held.items() if len(names) >= _SEVERAL}


def _in_release_folder(path: str, spoken: Collection[str]) -> bool:
    """Whether a file lies in a folder named as a release of something, among files for a browser.

    ``spoken``: names of runtimes and frameworks, of which an application has folders for several lines.
    """
    folders = path.split("/")[:-1]
    for at, folder in enumerate(folders):
        named = _RELEASE_FOLDER.match(folder) if at else None
        if named and named.group(1) not in spoken and not _SERVED.isdisjoint(part.lower() for part in folders[:at]):
            return True
    return False


def _copies(own: Mapping[str, SourceFile]) -> set[str]:
    """Files that tools copied from another place of the application."""
    held: dict[str, list[str]] = {}
    for path, file in own.items():
        if file.digest and len(file.data) >= _SAME_SIZE:
            held.setdefault(file.digest, []).append(path)
    found = set()
    for same in held.values():
        built = [path for path in same if not _PUT_TOGETHER.isdisjoint(path.split("/")[:-1])]
        if len(built) < len(same):
            found.update(built)
    return found


class _Telling:
    """What a file says of itself: a release of something, with its rights, that is not this application."""

    def __init__(self, names: Collection[str], own: Mapping[str, SourceFile]) -> None:
        self._names = [name.encode() for name in names if len(name) >= 3]
        self._authors: Counter[bytes] = Counter()
        self._holders: set[bytes] = set()
        self._banners: dict[str, bytes] = {}
        for path, file in own.items():
            head = file.data[:_HEAD]
            author = _AUTHOR.search(head)
            if author:
                self._authors[author.group(1)] += 1
            banner = _banner(head)
            if banner:
                self._banners[path] = banner
            elif (holder := _holder(head)) and file.role == "source":
                self._holders.add(holder)

    def is_foreign(self, path: str, data: bytes) -> bool:
        """Whether a file says that it is a release of something else."""
        banner = self._banners.get(path)
        if banner is not None:
            return not self._names_us(banner) and _holder(banner) not in self._holders
        return self._is_module_apart(data[:_HEAD])

    def _is_module_apart(self, head: bytes) -> bool:
        author = _AUTHOR.search(head)
        return (
            author is not None
            and self._authors[author.group(1)] <= _FEW
            and _OWN_VERSION.search(head) is not None
            and _OWN_LICENCE.search(head) is not None
            and not self._names_us(head)
        )

    def _names_us(self, text: bytes) -> bool:
        plain = re.sub(rb"[^a-z0-9]", b"", text.lower())
        return any(name in plain for name in self._names)


def _banner(head: bytes) -> bytes | None:
    """The first comment, where it names a version of something and whose it is."""
    found = _COMMENT.match(head)
    text = (found.group(1) or found.group(2)) if found else None
    if text is None or not text.lstrip().startswith((b"/*", b"//")) or not _RIGHTS.search(text):
        return None
    return text if _VERSION.search(_LICENCE_NUMBER.sub(b" ", text)) else None


def _holder(text: bytes) -> bytes | None:
    found = _HOLDER.search(text)
    return re.sub(rb"[^a-z]", b"", found.group(1).lower()) if found else None


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]", "", name.lower())
