"""Reading files: encodings, what cannot be read, the cache, the worker processes."""

from __future__ import annotations

from pathlib import Path

import pytest

from yoake.core.values.facts import facts_from_json
from yoake.runner.encodings import normalise
from yoake.runner.extraction import Extractor
from yoake.runner.reading import read_batch
from yoake.shipped import KIT
from yoake.store.facts_cache import FactsCache


def never() -> bool:
    return False


@pytest.mark.parametrize(
    ("data", "text", "note"),
    [
        ("x = 'é'".encode(), "x = 'é'", ""),
        ("# -*- coding: latin-1 -*-\nx = 'é'".encode("latin-1"), "# -*- coding: latin-1 -*-\nx = 'é'", ""),
        (b"x = '\xe9'", "x = 'é'", "not valid utf-8 at byte 5"),
        (b"# coding: klingon\nx = 1", "# coding: klingon\nx = 1", "unknown encoding"),
        ("x = 'é'".encode("utf-16"), "x = 'é'", "UTF-16"),
    ],
)
def test_every_encoding_is_read_and_oddities_are_told(data: bytes, text: str, note: str) -> None:
    shown, said = normalise(data)
    assert shown.decode().lstrip("\ufeff") == text
    assert said.startswith(note)


def test_a_file_that_cannot_be_read_stops_nobody() -> None:
    rows = read_batch([("bad.py", b"\0\1\2", "d1"), ("good.py", b"import os\n", "d2")], KIT.ecosystems)
    assert [(path, bool(body)) for path, _, body, _ in rows] == [("bad.py", False), ("good.py", True)]
    assert "binary" in rows[0][3]


def test_unchanged_content_is_not_read_again(tmp_path: Path) -> None:
    cache = FactsCache(tmp_path / "facts.sqlite")
    first = Extractor(cache, KIT.ecosystems, workers=1)
    made = list(first.run([("a.py", b"import os\n")], never))
    first.close()
    second = Extractor(cache, KIT.ecosystems, workers=1)
    again = list(second.run([("renamed.py", b"import os\n")], lambda: False))
    assert second.readers._idle == []
    assert again[0][2] == made[0][2]
    second.close()
    cache.close()


def test_many_files_go_through_worker_processes_and_all_come_back() -> None:
    extractor = Extractor(FactsCache(None), KIT.ecosystems, workers=2)
    items = [(f"f{i}.py", b"import os\n" + b"x = 1\n" * 9000 + str(i).encode()) for i in range(40)]
    found = {path for path, _, facts, _ in extractor.run(items, never) if facts}
    extractor.close()
    assert found == {path for path, _ in items}


def test_a_stop_is_obeyed_between_files() -> None:
    extractor = Extractor(FactsCache(None), KIT.ecosystems, workers=1)
    seen = 0

    def items():
        nonlocal seen
        for i in range(1000):
            seen += 1
            yield f"f{i}.py", b"x = 1\n"

    list(extractor.run(items(), lambda: seen >= 5))
    extractor.close()
    assert seen < 10


def test_what_is_kept_comes_back_in_one_look_and_nothing_else_does(tmp_path: Path) -> None:
    cache = FactsCache(tmp_path / "facts.sqlite")
    rows = read_batch([(f"f{i}.py", f"import m{i}\n".encode(), f"d{i}") for i in range(5)], KIT.ecosystems)
    cache.put((digest, body, note) for _, digest, body, note in rows)
    found = cache.get(["d1", "d3", "never"])
    assert set(found) == {"d1", "d3"}
    assert facts_from_json(found["d3"][0]).asks[0].path == "m3"
    assert cache.get([]) == {}
    cache.close()


def test_known_and_new_files_of_one_group_all_come_back(tmp_path: Path) -> None:
    files = [(f"f{i}.py", f"import m{i}\n".encode()) for i in range(150)]
    for wanted in (files[::2], files):  # the second time half of them are known
        extractor = Extractor(FactsCache(tmp_path / "facts.sqlite"), KIT.ecosystems, workers=1)
        got = {path: facts for path, _, facts, _ in extractor.run(iter(wanted), lambda: False)}
        extractor.close()
        assert set(got) == {path for path, _ in wanted}
        assert all(facts is not None and facts.asks[0].path == f"m{path[1:-3]}" for path, facts in got.items())
