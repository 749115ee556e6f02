"""The parts that routes of an old side reach, and what people decided of them."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Mapping

from yoake.core.crossing.parts import Part, PartChoice, PartGraph, PartKey, PartNode
from yoake.store.database import Database


def put_parts(connection: sqlite3.Connection, application_id: int, graph: PartGraph) -> None:
    """Keep what the routes of the old side reach now."""
    connection.execute(
        "INSERT INTO crossing_parts VALUES (:id, :body) ON CONFLICT (application_id) DO UPDATE SET body = :body",
        {"id": application_id, "body": zlib.compress(_written(graph), 6)},
    )


def part_graph(db: Database, application_id: int) -> PartGraph:
    """What the routes of the old side reach; nothing where it was not read yet."""
    row = db.one("SELECT body FROM crossing_parts WHERE application_id = :id", {"id": application_id})
    return _read(zlib.decompress(row["body"])) if row is not None else PartGraph()


def part_choices(db: Database, application_id: int) -> dict[PartKey, PartChoice]:
    """What people decided of parts; all others are brought along."""
    rows = db.all("SELECT file, name, choice FROM crossing_choices WHERE application_id = :id", {"id": application_id})
    return {PartKey(row["file"], row["name"]): PartChoice(row["choice"]) for row in rows}


def put_part_choice(connection: sqlite3.Connection, application_id: int, key: PartKey, choice: PartChoice) -> None:
    """Keep what a person decided of a part."""
    connection.execute(
        "INSERT INTO crossing_choices VALUES (:id, :file, :name, :choice) "
        "ON CONFLICT (application_id, file, name) DO UPDATE SET choice = :choice",
        {"id": application_id, "file": key.file, "name": key.name, "choice": choice.value},
    )


def _written(graph: PartGraph) -> bytes:
    nodes = [
        [
            *(node.part.file, node.part.line, node.part.name, node.part.lines),
            *(node.reaches, node.templates, node.settings, node.tables, node.packages),
        ]
        for node in graph.nodes
    ]
    return json.dumps({"nodes": nodes, "roots": dict(graph.roots)}, separators=(",", ":")).encode()


def _read(body: bytes) -> PartGraph:
    held = json.loads(body)
    nodes = tuple(
        PartNode(Part(file, line, name, lines), *(tuple(each) for each in rest))
        for file, line, name, lines, *rest in held["nodes"]
    )
    roots: Mapping[str, int] = held["roots"]
    return PartGraph(nodes, roots)
