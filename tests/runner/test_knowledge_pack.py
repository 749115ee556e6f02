"""Packed knowledge says what the files say, and counts only for exactly those files."""

from __future__ import annotations

from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from yoake.core.knowledge.timeline import (
    CapturedLine,
    SortedRows,
    Symbol,
    Timeline,
    dump_timeline,
    load_timeline,
    sort_rows,
)
from yoake.core.values.coordinates import Coordinate, Line
from yoake.runner.knowledge_pack import pack_folder, packed_timeline, read_pack, shipped_folder
from yoake.shipped import KIT

PATHS = st.text(st.characters(codec="utf-8", exclude_characters="\t\n"), min_size=1, max_size=12)


@given(st.dictionaries(PATHS, st.integers(1, 7), min_size=1, max_size=40), PATHS)
def test_every_row_is_found_by_halving_and_nothing_else_is(offers: dict[str, int], other: str) -> None:
    made = Timeline(
        coordinate=Coordinate("pkg:pypi/x"),
        lines=(CapturedLine(Line("1.0"), "1.0", "x", ""),),
        symbols={p: Symbol(kind="f", offers=o) for p, o in offers.items()},
    )
    text, offsets, _ = sort_rows(dump_timeline(made))
    rows = SortedRows(text, offsets)
    assert {path: rows[path][1] for path in rows} == offers
    assert len(rows) == len(offers)
    assert (other in rows) == (other in offers)


def test_the_pack_is_made_of_the_files_that_ship() -> None:
    pack = read_pack()
    assert pack.digests, "make setup makes the pack"
    knowledge = KIT.knowledge()
    assert all(knowledge.digests[name] == digest for name, digest in pack.digests.items())


def test_a_packed_timeline_answers_as_the_file_does() -> None:
    name = "pypi-numpy.timeline.gz"
    digest = KIT.knowledge().digests[f"timelines/{name}"]
    packed = packed_timeline(f"timelines/{name}", digest)
    assert packed is not None
    whole = load_timeline((shipped_folder() / "timelines" / name).read_bytes())
    paths = list(whole.symbols)[::500]
    assert [packed.ask(path) for path in paths] == [whole.ask(path) for path in paths]
    assert packed.symbols.get("numpy.nothing.like.this") is None
    assert packed.top_levels == whole.top_levels


def test_a_changed_file_is_read_itself(tmp_path: Path) -> None:
    assert packed_timeline("timelines/pypi-numpy.timeline.gz", "another digest") is None
    assert any(pack_folder().iterdir())
