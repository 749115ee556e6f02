"""Find what an application answers to: in its code, in descriptions of its interface, and in the logs of its server."""

from __future__ import annotations

import bz2
import gc
import gzip
import lzma
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any, Final

from yoake.core.contract.registry import Registry
from yoake.core.crossing.calls_in_tests import called_in_tests
from yoake.core.crossing.code_routes import distinct, read_code_routes
from yoake.core.crossing.parts import PartGraph
from yoake.core.crossing.traffic import Traffic
from yoake.core.values.errors import BadInput, BadSource
from yoake.core.values.routes import Route, bare
from yoake.formats.access_logs import pieces_of, read_access_log
from yoake.formats.openapi import NotAnApiDocument, read_openapi
from yoake.runner.encodings import normalise
from yoake.runner.snapshots import Snapshot

_LARGEST: Final = 3_000_000  # bytes of a source file; longer ones were put together by a tool
_MAGIC: Final[dict[bytes, Callable[..., Any]]] = {b"\x1f\x8b": gzip.open, b"BZh": bz2.open, b"\xfd7zXZ": lzma.open}
_ENDINGS: Final = (".py", ".js", ".mjs", ".cjs", ".jsx", ".ts", ".mts", ".cts", ".tsx")
_DESCRIBING: Final = ("package.json", "tsconfig.json", "jsconfig.json")


@dataclass(frozen=True, slots=True)
class FoundRoutes:
    """Routes of code and documents, each once; ``cut`` names frameworks whose reading came to its bound; ``tested``: names of the routes
    that tests of the source call."""

    routes: tuple[Route, ...]
    cut: tuple[str, ...] = ()
    parts: PartGraph = field(default_factory=PartGraph)
    tested: frozenset[str] = frozenset()


def find_routes(snapshot: Snapshot, ecosystems: Registry, *, with_parts: bool = False) -> FoundRoutes:
    """The routes that the code of a source declares, and where it is asked for, what each drags along."""
    paths = [
        entry.path
        for entry in snapshot.entries()
        if not entry.refused
        and entry.size <= _LARGEST
        and entry.path.endswith((*_ENDINGS, *_DESCRIBING, ".json", ".html"))
    ]

    def read(path: str) -> bytes | None:
        try:
            data = snapshot.read(path)
            return normalise(data)[0] if path.endswith(_ENDINGS) else data
        except (OSError, ValueError, KeyError, BadSource):
            return None

    found = read_code_routes(paths, read, ecosystems, with_parts=with_parts)
    tested = called_in_tests(_test_texts(paths, read, ecosystems), found.routes) if with_parts else frozenset()
    return FoundRoutes(found.routes, found.cut, found.parts, tested)


def _test_texts(paths: Sequence[str], read: Callable[[str], bytes | None], ecosystems: Registry) -> Iterator[str]:
    for path in paths:
        if path.endswith(_ENDINGS) and ecosystems.role_of(path) == "test":
            yield (read(path) or b"").decode("utf-8", "replace")


def documented_routes(path: Path) -> tuple[Route, ...]:
    """The routes of an OpenAPI document. Raises BadInput."""
    try:
        return read_openapi(path.read_bytes(), path.name)
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    except NotAnApiDocument as error:
        raise BadInput(f"{path} is not taken: {error}.") from error


def with_documented(code: Sequence[Route], documents: Sequence[Route]) -> tuple[Route, ...]:
    """Routes of code, and of documents those that the code does not have."""
    known = {(route.method, bare(route.path).rstrip("/")) for route in code}
    anything = {bare(route.path).rstrip("/") for route in code if route.method == "ANY"}
    more = [
        route
        for route in documents
        if (route.method, bare(route.path).rstrip("/")) not in known and bare(route.path).rstrip("/") not in anything
    ]
    return distinct([*code, *more])


def count_traffic(
    routes: Sequence[Route], logs: Sequence[Path], told: Callable[[int], None] = lambda _: None
) -> Traffic:
    """The calls of every route in some logs, packed or not. ``told`` hears how many bytes were read. Raises BadInput."""
    traffic = Traffic(routes=tuple(routes))
    collects = gc.isenabled()
    gc.disable()  # millions of small records, none of which points to another: looking for loops costs a third of the time
    try:
        _count(traffic, logs, told)
    finally:
        if collects:
            gc.enable()
    return traffic


def _count(traffic: Traffic, logs: Sequence[Path], told: Callable[[int], None]) -> None:
    for log in logs:
        with ExitStack() as stack:
            try:
                file = stack.enter_context(_opened(log))
                for piece in read_access_log(_counted(file, told)):
                    traffic.lines += piece.lines
                    traffic.other_lines += piece.others
                    for call, count in piece.calls.items():
                        traffic.add(call, count)
            except (OSError, EOFError, lzma.LZMAError) as error:
                raise BadInput(f"The log {log} cannot be read: {error}.") from error


def _opened(path: Path) -> IO[bytes]:
    with path.open("rb") as file:
        head = file.read(6)
    opening = next((each for magic, each in _MAGIC.items() if head.startswith(magic)), None)
    opened: IO[bytes] = opening(path, "rb") if opening is not None else path.open("rb")
    return opened


def _counted(file: IO[bytes], told: Callable[[int], None]) -> Iterator[bytes]:
    for piece in pieces_of(file.read):
        told(len(piece))
        yield piece
