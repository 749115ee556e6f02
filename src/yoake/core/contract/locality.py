"""What a joiner asks about the project's own files, whatever their language."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from yoake.core.values.facts import ClassFact, FileFacts


@dataclass(frozen=True, slots=True)
class Resolved:
    """An absolute path outside the project. ``reexported`` is how much of it came through the project's own modules;
    ``guarded`` is set when such a module chooses between several. ``others`` are what the name may stand for instead: the first
    that exists is meant. With ``settled`` the language knows which, and nothing is chosen while the program runs."""

    path: str
    reexported: str = ""
    guarded: bool = False
    others: tuple[str, ...] = ()
    settled: bool = False


class Locality(Protocol):
    """The project's own files of one language."""

    @property
    def facts(self) -> Mapping[str, FileFacts]:
        """Facts by path."""

    def resolve(self, path: str, file: str) -> Resolved | None:
        """Where a use leads outside the project."""

    def find_class(self, path: str, file: str) -> tuple[str, str, ClassFact] | None:
        """A class of the project."""

    def target_of(self, path: str, file: str) -> str | None:
        """The file of the project that an import names."""

    def is_local(self, name: str) -> bool:
        """Whether a first part of a path names something of the project."""
