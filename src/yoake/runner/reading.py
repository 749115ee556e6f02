"""Bytes of one source file → facts. Runs in a reader, a process of its own, or for a few files at once here."""

from __future__ import annotations

import gc
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Final

from yoake.runner.encodings import normalise

if TYPE_CHECKING:
    from yoake.core.contract.registry import Registry

TANGLED: Final = "its syntax can be read in more ways than can be tried"

Item = tuple[str, bytes, str]
"""path, content, digest"""
Read = tuple[str, str, str, str]
"""path, digest, facts as JSON (empty when it failed), reason"""


def read_here(items: list[Item], ecosystems: Registry) -> list[Read]:
    """The same in the process that asks for it: what would keep it busy beyond measure is told and left out."""
    kept: list[Item] = []
    tangled: list[Item] = []
    for item in items:
        (kept if ecosystems.is_bounded(item[0], item[1]) else tangled).append(item)
    return [*read_batch(kept, ecosystems), *((path, digest, "", TANGLED) for path, _, digest in tangled)]


def read_batch(items: list[Item], ecosystems: Registry) -> list[Read]:
    """Facts of a few files. A file that fails says why and stops nobody."""
    done: list[Read] = []
    gc.collect()
    for path, data, digest in items:
        try:
            text, note = (data, "") if ecosystems.is_compiled(path) else normalise(data)
            done.append((path, digest, ecosystems.read_source(path, text).to_json(), note))
        except RecursionError:
            done.append((path, digest, "", "nested too deep to be read"))
        except MemoryError:
            done.append((path, digest, "", "too large to be read within the memory that one file may take"))
        except ValueError as error:
            done.append((path, digest, "", str(error) or type(error).__name__))
    return done


def serve(connection: Connection, ecosystems: Registry) -> None:
    """Answer batches until the connection ends."""
    gc.disable()  # trees and scopes are freed by counting, so the collector only costs time between batches
    gc.freeze()
    while True:
        connection.send(read_batch(connection.recv(), ecosystems))
