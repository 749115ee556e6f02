"""A snapshot with some of its files written otherwise, to see what a scan would say of them."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yoake.runner.snapshots import Entry, Snapshot


class Overlay:
    """What is beneath, but for the files whose texts are given. Closing it leaves open what is beneath."""

    def __init__(self, beneath: Snapshot, texts: Mapping[str, bytes]) -> None:
        self.beneath = beneath
        self.texts = texts
        self.label = beneath.label
        said = "\n".join(f"{path} {hashlib.sha256(text).hexdigest()}" for path, text in sorted(texts.items()))
        self.identity = f"{beneath.identity}+{hashlib.sha256(said.encode()).hexdigest()[:16]}"

    def entries(self) -> Iterator[Entry]:
        """All files of what is beneath, with the sizes that they have here."""
        for entry in self.beneath.entries():
            text = self.texts.get(entry.path)
            yield entry if text is None else replace(entry, size=len(text))

    def read(self, path: str) -> bytes:
        """The bytes of one file. Raises OSError."""
        text = self.texts.get(path)
        return self.beneath.read(path) if text is None else text

    def close(self) -> None:
        """Nothing is held."""
