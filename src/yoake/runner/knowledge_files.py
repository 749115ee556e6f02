"""Knowledge from disk: what ships, then the person's own folder, which wins file by file."""

from __future__ import annotations

import gzip
import hashlib
import os
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Final, TypeVar

from pydantic import BaseModel

from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import EffortTable, Lifecycle, RuleFile, TriedFact, TriedFile
from yoake.core.knowledge.parse import check_model, parse_yaml
from yoake.core.knowledge.timeline import Head, Timeline, load_timeline, read_head
from yoake.core.values.coordinates import Coordinate
from yoake.core.values.errors import BadKnowledge
from yoake.runner.knowledge_pack import Pack, first_line, packed_timeline, read_catalogue, read_pack, shipped_folder

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry

OWN_TRIALS: Final = "own.json.gz"
"""File of what was tried here."""

M = TypeVar("M", bound=BaseModel)
T = TypeVar("T")


def load_knowledge(ecosystems: Registry, own: Path | None = None) -> Knowledge:
    """All knowledge; reloaded only when a file changed. Raises BadKnowledge."""
    folders = [shipped_folder(), *([own] if own is not None and own.is_dir() else [])]
    stamps = tuple(stamp for folder in folders for stamp in sorted(_written_at(str(folder))))
    return _load(ecosystems, tuple(folders), stamps)


def _written_at(folder: str) -> Iterator[tuple[str, int]]:
    """(path, when it was written) of every file below a folder; asked once a second, so without the comfort of paths."""
    with os.scandir(folder) as entries:
        for entry in entries:
            if entry.is_dir():
                yield from _written_at(entry.path)
            else:
                yield entry.path, entry.stat().st_mtime_ns


@lru_cache(maxsize=2)
def _load(ecosystems: Registry, folders: tuple[Path, ...], _stamps: tuple[tuple[str, int], ...]) -> Knowledge:
    chosen: dict[str, Path] = {}
    for folder in folders:
        for path in sorted(folder.rglob("*")):
            if path.is_file() and not path.name.endswith(".part"):
                chosen[path.relative_to(folder).as_posix()] = path
    digests = {name: _digest(path) for name, path in chosen.items()}
    reader = _Reader(chosen, digests, read_pack())
    named = sorted(name for name in chosen if name.endswith(".timeline.gz"))
    heads = {head.coordinate: (name, head) for name in named for head in [reader.head(name)]}
    records = {
        reader.catalogue(name): chosen[name]
        for name in sorted(chosen)
        if name.startswith("catalogue/") and name.endswith(".json.gz")
    }

    def timeline(coordinate: Coordinate) -> Timeline:
        name = heads[coordinate][0]
        return packed_timeline(name, digests[name]) or load_timeline(chosen[name].read_bytes(), digests[name])

    return Knowledge(
        timelines=_Lazy(heads, timeline),
        lifecycles={x.coordinate: x for x in reader.each("lifecycles/", Lifecycle)},
        rule_files={x.coordinate: x for x in reader.each("rules/", RuleFile)},
        effort=reader.yaml("effort.yaml", EffortTable),
        ecosystems=ecosystems,
        catalogues=_Lazy(records, lambda coordinate: read_catalogue(records[coordinate])),
        digests=digests,
        heads={coordinate: head for coordinate, (_, head) in heads.items()},
        read_tried=lambda: [fact for name in _tried_files(chosen) for fact in read_tried(chosen[name])],
    )


def _tried_files(chosen: Iterable[str]) -> list[str]:
    """What was tried: a person's own comes last, and wins."""
    named = [name for name in chosen if name.startswith("tried/") and name.endswith(".json.gz")]
    return sorted(named, key=lambda name: (name == f"tried/{OWN_TRIALS}", name))


def read_tried(path: Path) -> list[TriedFact]:
    """What a file of trials holds; nothing where there is none. Raises BadKnowledge."""
    if not path.exists():
        return []
    try:
        return list(TriedFile.model_validate_json(gzip.decompress(path.read_bytes())).facts)
    except (OSError, EOFError, ValueError) as error:
        raise BadKnowledge(f"{path.name} cannot be read: {error}. Delete it, and try again what it held.") from error


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()[:16]


class _Reader:
    """Knowledge files, each from the pack where that holds exactly this content, else from the file."""

    def __init__(self, chosen: Mapping[str, Path], digests: Mapping[str, str], pack: Pack) -> None:
        self.chosen = chosen
        self.packed = {name: pack.bodies[name] for name, digest in digests.items() if pack.digests.get(name) == digest}

    def each(self, prefix: str, model: type[M]) -> Iterator[M]:
        for name in sorted(self.chosen):
            if name.startswith(prefix) and name.endswith((".yaml", ".yml")):
                yield self.yaml(name, model)

    def yaml(self, name: str, model: type[M]) -> M:
        if name in self.packed:
            return check_model(self.packed[name], model, name)
        return parse_yaml(self.chosen[name].read_text("utf-8"), model, name)

    def head(self, name: str) -> Head:
        if name in self.packed:
            return read_head(self.packed[name])
        try:
            return read_head(first_line(self.chosen[name]))
        except (OSError, EOFError, BadKnowledge) as error:
            raise BadKnowledge(f"{self.chosen[name].name}: {error}") from error

    def catalogue(self, name: str) -> Coordinate:
        """The coordinate of a release record."""
        return Coordinate(self.packed[name]) if name in self.packed else read_catalogue(self.chosen[name]).coordinate


class _Lazy(Mapping[Coordinate, T]):
    """What is read when first asked for; the names are known from the files. ``read``: coordinate → what its file holds."""

    def __init__(self, coordinates: Iterable[Coordinate], read: Callable[[Coordinate], T]) -> None:
        self._names = frozenset(coordinates)
        self._read = read
        self._loaded: dict[Coordinate, T] = {}

    def __getitem__(self, coordinate: Coordinate) -> T:
        if coordinate not in self._names:
            raise KeyError(coordinate)
        if coordinate not in self._loaded:
            self._loaded[coordinate] = self._read(coordinate)
        return self._loaded[coordinate]

    def __contains__(self, coordinate: object) -> bool:
        return coordinate in self._names

    def __iter__(self) -> Iterator[Coordinate]:
        return iter(sorted(self._names))

    def __len__(self) -> int:
        return len(self._names)
