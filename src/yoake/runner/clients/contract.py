"""What the outside of an ecosystem brings: surfaces and release records, through its ordinary package client."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from yoake.core.values.errors import BadCoordinate

if TYPE_CHECKING:
    from yoake.core.contract.ecosystem import Ecosystem
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Catalogue
    from yoake.core.knowledge.timeline import Timeline
    from yoake.core.values.coordinates import Coordinate, Line
    from yoake.core.values.modules import Module
    from yoake.core.values.runs import Command, Side, TestResult
    from yoake.core.values.symbols import Surface
    from yoake.runner.clients.locking import LockWriter

Say = Callable[[str], None]


@dataclass(frozen=True, slots=True)
class Trial:
    """How it went to install and use a release. ``beside``: what had to be there as well for it to run; ``note``: the last word of
    what went wrong."""

    runs: bool
    note: str = ""
    beside: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bench:
    """Where a command is to run: the folder of a module in a fresh copy, a place for all that is made, the side it stands for, and a folder
    in which runtimes are kept."""

    folder: Path
    place: Path
    module: Module
    side: Side
    command: Command
    runtimes: Path


@dataclass(frozen=True, slots=True)
class Making:
    """A step that makes an environment: what it does, in words and as a command. Where it does not go well, ``instead`` is run one by one:
    the first must go well, of the others what can."""

    title: str
    words: Sequence[str]
    instead: Sequence[Sequence[str]] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Environment:
    """How a command runs on a bench. ``steps`` make the environment, each must go well; ``installing`` and
    ``variables``: the variables of the steps and of the command; ``words``: the command itself; ``tests`` reads its results from what it
    wrote, given its output; ``installed`` lists package → release; ``mending``: the output of a command that failed, and whether more
    tests passed than failed → what may be missing beside it, with the words that bring it."""

    steps: Sequence[Making]
    words: Sequence[str]
    installing: Mapping[str, str] = field(default_factory=dict)
    variables: Mapping[str, str] = field(default_factory=dict)
    tests: Callable[[str], Sequence[TestResult]] = lambda _output: ()
    installed: Callable[[], Mapping[str, str]] = dict
    mending: Callable[[str, bool], Sequence[tuple[str, Sequence[str]]]] = lambda _output, _passed: ()


@dataclass(frozen=True, kw_only=True)
class Client:
    """The package client and the runtimes of one ecosystem.

    ``runtime``: the timeline of the runtime, of the lines that are wanted or all. ``package``: the timeline of a package; with
    the last argument its modules are also imported. ``file``: the surface of an artefact at hand, whose kinds ``files`` names.
    ``record``: its release record. ``try_release``: a release really installed and used on a line of the runtime; None where
    nobody can. All raise BadSource where the client or the artefact gives nothing readable, and BadCoordinate for lines that
    there are not. ``records``: records of many packages as they come, without what only their artefacts tell; None for each that
    the client does not know, and where a client has no quicker way than one after the other. ``environment``: how a command of a
    module runs with the releases of a side; BadSource where this machine cannot. ``available``: how a line of the runtime can be had
    on this machine, in words; empty where it cannot. ``installer``: (name, version) of the program that installs packages, the version empty
    where it is not there. ``locks``: name of a lock file → what renews it.
    """

    ecosystem: Ecosystem
    runtime: Callable[[Iterable[str], Say], Timeline]
    package: Callable[[Coordinate, Iterable[str], Say, bool], Timeline]
    file: Callable[[Coordinate, Path], Surface]
    files: str
    record: Callable[[Coordinate, date, Knowledge, Say], Catalogue]
    try_release: Callable[[Coordinate, str, Line], Trial] | None = None
    records: Callable[[Sequence[Coordinate], date], Iterator[tuple[Coordinate, Catalogue | None]]] | None = None
    environment: Callable[[Bench], Environment] | None = None
    available: Callable[[Line], str] = lambda _line: ""
    installer: Callable[[], tuple[str, str]] | None = None
    locks: Mapping[str, LockWriter] = field(default_factory=dict)


class Clients:
    """The package clients of one Yoake, by the coordinates they answer for. ``locks``: name of a lock file → what renews it."""

    def __init__(self, clients: Iterable[Client]) -> None:
        self._clients = tuple(clients)
        self.locks = {name: writer for client in self._clients for name, writer in client.locks.items()}

    def __iter__(self) -> Iterator[Client]:
        return iter(self._clients)

    def of(self, coordinate: Coordinate) -> Client:
        """The client that answers for a coordinate. Raises BadCoordinate with those that there are."""
        for client in self._clients:
            if coordinate == client.ecosystem.runtime or coordinate.type == client.ecosystem.package_type:
                return client
        kinds = [f"{c.ecosystem.runtime.short}, {c.ecosystem.package_type}/NAME" for c in self._clients]
        raise BadCoordinate(f"{coordinate.short} cannot be made known: only {', '.join(kinds)} can.")
