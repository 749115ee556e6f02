"""Knowledge from disk: what ships, then the person's own folder, which wins file by file."""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import TypeVar

from yoake.core.errors import BadKnowledge
from yoake.core.knowledge.base import Knowledge
from yoake.core.knowledge.models import Catalogue, EffortTable, Lifecycle, RuleFile
from yoake.core.knowledge.parse import parse_yaml
from yoake.core.knowledge.timeline import Head, Timeline, load_timeline, read_head

T = TypeVar("T")


def shipped_folder() -> Path:
    """The folder of knowledge that is part of the program."""
    return Path(str(files("yoake") / "knowledge"))


def load_knowledge(own: Path | None = None) -> Knowledge:
    """All knowledge; reloaded only when a file changed. Raises BadKnowledge."""
    folders = [shipped_folder(), *([own] if own is not None and own.is_dir() else [])]
    stamps = tuple(
        (path, path.stat().st_mtime_ns) for folder in folders for path in sorted(folder.rglob("*")) if path.is_file()
    )
    return _load(tuple(folders), stamps)


@lru_cache(maxsize=2)
def _load(folders: tuple[Path, ...], _stamps: tuple[tuple[Path, int], ...]) -> Knowledge:
    chosen: dict[str, Path] = {}
    for folder in folders:
        for path in sorted(folder.rglob("*")):
            if path.is_file() and not path.name.endswith(".part"):
                chosen[path.relative_to(folder).as_posix()] = path
    digests = {name: hashlib.sha256(path.read_bytes()).hexdigest()[:16] for name, path in chosen.items()}
    effort = parse_yaml(chosen["effort.yaml"].read_text("utf-8"), EffortTable, "effort.yaml")
    timelines = {n: p for n, p in chosen.items() if n.endswith(".timeline.gz")}
    heads = {head.coordinate.purl: (name, head) for name, head in _heads(timelines)}
    return Knowledge(
        timelines=_LazyTimelines({purl: (name, timelines[name]) for purl, (name, _) in heads.items()}, digests),
        lifecycles={x.coordinate: x for x in _each(chosen, "lifecycles/", lambda t, n: parse_yaml(t, Lifecycle, n))},
        rule_files={x.coordinate: x for x in _each(chosen, "rules/", lambda t, n: parse_yaml(t, RuleFile, n))},
        effort=effort,
        catalogues={x.coordinate: x for x in _catalogues(chosen)},
        digests=digests,
        heads={purl: head for purl, (_, head) in heads.items()},
    )


def _each(chosen: Mapping[str, Path], prefix: str, read: Callable[[str, str], T]) -> Iterator[T]:
    for name, path in sorted(chosen.items()):
        if name.startswith(prefix) and name.endswith((".yaml", ".yml")):
            yield read(path.read_text("utf-8"), name)


def _catalogues(chosen: Mapping[str, Path]) -> Iterator[Catalogue]:
    for name, path in sorted(chosen.items()):
        if name.startswith("catalogue/") and name.endswith(".json.gz"):
            yield Catalogue.model_validate_json(gzip.decompress(path.read_bytes()))


class _LazyTimelines(Mapping[str, Timeline]):
    """Timelines that are read when first asked for; the names are known from the files."""

    def __init__(self, paths: Mapping[str, tuple[str, Path]], digests: Mapping[str, str]) -> None:
        self._paths = paths
        self._digests = digests
        self._loaded: dict[str, Timeline] = {}

    def __getitem__(self, purl: str) -> Timeline:
        if purl not in self._loaded:
            name, path = self._paths[purl]
            self._loaded[purl] = load_timeline(path.read_bytes(), self._digests[name])
        return self._loaded[purl]

    def __iter__(self) -> Iterator[str]:
        return iter(self._paths)

    def __len__(self) -> int:
        return len(self._paths)


def _heads(paths: Mapping[str, Path]) -> Iterator[tuple[str, Head]]:
    """The first line of every timeline file; the rest is read when first asked for."""
    for name, path in sorted(paths.items()):
        try:
            with gzip.open(path) as handle:
                yield name, read_head(handle.readline())
        except (OSError, EOFError, BadKnowledge) as error:
            raise BadKnowledge(f"{path.name}: {error}") from error
