"""What ships as knowledge, in a form that loads at once: YAML already parsed, the first lines of timelines, names of records,
and the rows of large timelines sorted in a file that is only looked into.

Made by ``make setup`` and with every wheel, never committed. Each entry counts only while the digest of its file is the
same; what has changed since is read from the file.
"""

from __future__ import annotations

import gzip
import hashlib
import json
import mmap
import shutil
import struct
from array import array
from collections.abc import Mapping
from dataclasses import dataclass, field
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

from yoake.core.knowledge.models import Catalogue
from yoake.core.knowledge.parse import parse_plain
from yoake.core.knowledge.timeline import SortedRows, Timeline, read_head, sort_rows, timeline_of_rows

_INDEX: Final = "index.json"
_LARGE: Final = 20_000  # symbols: below, a timeline is read faster than its rows are looked up
_HEAD: Final = struct.Struct("<II")  # number of rows, and where the text ends


@dataclass(frozen=True, slots=True)
class Pack:
    """File name → digest of the file, and what was read of it."""

    digests: Mapping[str, str] = field(default_factory=dict)
    bodies: Mapping[str, Any] = field(default_factory=dict)


def shipped_folder() -> Path:
    """The folder of knowledge that is part of the program."""
    return Path(str(files("yoake") / "knowledge"))


def pack_folder() -> Path:
    """Where the pack lies: beside the folder, so that it is no knowledge itself."""
    return shipped_folder().with_name("knowledge.pack")


def read_pack() -> Pack:
    """The pack; an empty one where there is none or it cannot be read."""
    try:
        body = json.loads((pack_folder() / _INDEX).read_bytes())
        return Pack(body["digests"], body["bodies"])
    except (OSError, ValueError, KeyError, TypeError):
        return Pack()


def packed_timeline(name: str, digest: str) -> Timeline | None:
    """A timeline over its rows in the pack; None when they are not there for exactly this content."""
    file = pack_folder() / f"{Path(name).name}.{digest}.rows"
    try:
        with file.open("rb") as handle:
            held = mmap.mmap(handle.fileno(), 0, access=mmap.ACCESS_READ)
        count, end = _HEAD.unpack_from(held)
        offsets = memoryview(held)[_HEAD.size : _HEAD.size + 4 * (count + 1)].cast("I")
        head, strings = json.loads(held[end:])
        return timeline_of_rows(read_head(head), SortedRows(held, offsets), strings, digest)
    except (OSError, ValueError, struct.error):
        return None


def first_line(path: Path) -> str:
    """The head of a timeline file. Raises OSError and EOFError."""
    with gzip.open(path) as handle:
        return handle.readline().decode("utf-8", "replace")


def read_catalogue(path: Path) -> Catalogue:
    """A release record."""
    return Catalogue.model_validate_json(gzip.decompress(path.read_bytes()))


def make_pack() -> None:
    """Read all knowledge that ships and write the pack; a reader sees the old one or the new one."""
    folder = shipped_folder()
    made = pack_folder().with_name("knowledge.pack.part")
    shutil.rmtree(made, ignore_errors=True)
    made.mkdir()
    digests: dict[str, str] = {}
    bodies: dict[str, Any] = {}
    for path in sorted(folder.rglob("*")):
        name = path.relative_to(folder).as_posix()
        if not path.is_file() or (body := _body(path, name)) is None:
            continue
        digests[name] = hashlib.sha256(path.read_bytes()).hexdigest()[:16]
        bodies[name] = body
        if name.endswith(".timeline.gz") and read_head(body).symbols >= _LARGE:
            (made / f"{path.name}.{digests[name]}.rows").write_bytes(_rows(path, str(body)))
    (made / _INDEX).write_text(json.dumps({"digests": digests, "bodies": bodies}, default=str), "utf-8")
    shutil.rmtree(pack_folder(), ignore_errors=True)
    made.replace(pack_folder())


def _rows(path: Path, head: str) -> bytes:
    text, offsets, strings = sort_rows(path.read_bytes())
    begin = _HEAD.size + 4 * len(offsets)
    placed = array("I", (begin + offset for offset in offsets))
    tail = json.dumps([head, strings]).encode()
    return _HEAD.pack(len(offsets) - 1, begin + len(text)) + placed.tobytes() + text + tail


def _body(path: Path, name: str) -> Any:
    if name.endswith((".yaml", ".yml")):
        return parse_plain(path.read_text("utf-8"), name)
    if name.endswith(".timeline.gz"):
        return first_line(path)
    return read_catalogue(path).coordinate if name.startswith("catalogue/") and name.endswith(".json.gz") else None


if __name__ == "__main__":
    make_pack()
