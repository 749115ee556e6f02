"""Other people's code and code that tools made: it breaks like one's own, and nobody mends it line by line."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from yoake.core.contract.source_files import VENDORED
from yoake.core.values.coordinates import line_key

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.scan.findings import Builder
    from yoake.core.values.findings import Checks, FileResult, Finding, Place
    from yoake.core.values.modules import Module
    from yoake.core.values.words import CheckState, ForeignRole, Kind

_FOLDER_OF_COPIES: Final = re.compile(
    f"(?:{'|'.join((*VENDORED, 'dist', 'libs?', 'static', 'js', 'plugins', 'assets', 'media'))})$"
)
"""Each of what lies in such a folder is renewed by itself."""
_KINDS: Final[Mapping[ForeignRole, Kind]] = {"vendored": "package", "generated": "toolchain"}
_TITLES: Final = {"vendored": "{0}: a copy to renew", "generated": "{0}: to be made again from its source"}
_REMEDIES: Final = {
    "vendored": "Take a release that goes with the destination, require it as a package, or drop it: what it breaks is not counted "
    "as work place by place.",
    "generated": "Mend the source, and make this again with tools that go with the destination.",
}


@dataclass(frozen=True, slots=True)
class ForeignCode:
    """Files that are not written here, the tree each belongs to (what is renewed at one go), and folders whose code is nothing else."""

    roles: Mapping[str, ForeignRole]
    trees: Mapping[str, str]
    folders: Set[str] = frozenset()

    def own_modules(self, modules: Sequence[Module]) -> list[Module]:
        """Modules with code of one's own, or with none at all: what a copy asks for is not asked for here. All of them where all is foreign."""
        if "" in self.folders:
            return list(modules)
        return [module for module in modules if module.path not in self.folders]

    def told_apart(self, findings: Sequence[Finding]) -> list[Finding]:
        """The same findings, each of their places with the role of its file."""
        if not self.roles:
            return list(findings)
        return [
            replace(f, places=tuple(self._placed(p) for p in f.places))
            if any(p.file in self.roles for p in f.places)
            else f
            for f in findings
        ]

    def _placed(self, place: Place) -> Place:
        role = self.roles.get(place.file)
        return replace(place, role=role) if role is not None and place.role == "source" else place

    def findings(self, told: Sequence[Finding], builder: Builder, knowledge: Knowledge) -> Iterator[Finding]:
        """One finding for each tree in which something breaks on the way, at the line where the first of it does."""
        broken: dict[str, list[tuple[Finding, Place]]] = {}
        for finding in told:
            if not finding.bites_at or finding.bites_at <= builder.spans[finding.coordinate].today:
                continue  # of an older runtime, and not reached today
            for place in finding.places:
                if place.level != "note" and place.file in self.trees:
                    broken.setdefault(self.trees[place.file], []).append((finding, place))
        for tree, held in sorted(broken.items()):
            yield self._tree_finding(tree, held, builder, knowledge)

    def _tree_finding(
        self, tree: str, held: Sequence[tuple[Finding, Place]], builder: Builder, knowledge: Knowledge
    ) -> Finding:
        first = min((f for f, _ in held), key=lambda f: (line_key(f.bites_at or ""), f.coordinate))
        role = self.roles[held[0][1].file]
        at = min((place for _, place in held), key=lambda place: (place.file, place.line))
        count, files = len({(p.file, p.line, p.column) for _, p in held}), len({p.file for _, p in held})
        many = f"{count} places in it break" if count > 1 else "one place in it breaks"
        made = builder.single(
            first.coordinate,
            _KINDS[role],
            f"{role} {tree}",
            f"{_TITLES[role].format(tree)}, {many}",
            first.bites_at,
            [(at.file, at.line, at.symbol)],  # one: it is renewed at one go, however much of it breaks
            remedy=_REMEDIES[role],
            level="error" if any(p.level == "error" for _, p in held) else "warning",
            evidence=(
                "told apart by what its files say and by what lies beside them",
                f"{_counted(count, 'place')} in {_counted(files, 'file')}, told under the findings they belong to",
            ),
        )
        return replace(made, effort=knowledge.effort.foreign[role])


def _counted(number: int, noun: str) -> str:
    return f"{number} {noun}{'s' if number > 1 else ''}"


def foreign_code(files: Sequence[FileResult]) -> ForeignCode:
    """What of these is not written here."""
    roles: dict[str, ForeignRole] = {}
    for file in files:
        if file.role == "vendored" or file.role == "generated":  # noqa: PLR1714  so that its type is told
            roles[file.path] = file.role
    mixed: dict[str, set[bool]] = {}
    for file in files:
        if file.language in ("folder", "manifest"):
            continue
        folder = file.path
        while folder:
            folder = folder.rpartition("/")[0]
            mixed.setdefault(folder, set()).add(file.path in roles)
    foreign = frozenset(folder for folder, held in mixed.items() if held == {True})
    return ForeignCode(roles, {path: _tree_of(path, role, foreign) for path, role in roles.items()}, foreign)


def _tree_of(path: str, role: ForeignRole, foreign: Set[str]) -> str:
    """The largest folder around a file that holds nothing else, or, of copies, its part of a folder that is there for them."""
    parts = path.split("/")
    for length in range(1, len(parts)):
        folder = "/".join(parts[:length])
        if folder in foreign:
            apart = role == "vendored" and _FOLDER_OF_COPIES.match(parts[length - 1])
            return "/".join(parts[: length + 1]) if apart else folder
    return path


class ForeignChecks:
    """Checks of foreign code: one for each tree, with its worst state, so that a large bundle is not the whole figure."""

    def __init__(self, foreign: ForeignCode) -> None:
        self._foreign = foreign
        self._worst: dict[str, CheckState] = {}

    def see(self, path: str, states: Sequence[CheckState]) -> None:
        """Take what was found in one file of a tree."""
        tree = self._foreign.trees[path]
        for state in states:
            known = self._worst.get(tree, "holds")
            self._worst[tree] = (
                "fails" if "fails" in (state, known) else "unknown" if "unknown" in (state, known) else known
            )

    def add_to(self, checks: Checks, module: str, weight: float) -> None:
        """Count them."""
        for tree, state in sorted(self._worst.items()):
            checks.add(
                "usage", state, weight, tree, module, "code that is not written here" if state == "unknown" else ""
            )
